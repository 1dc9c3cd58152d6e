# Completion of palio in bash: the tool itself says what could come next.
_palio() {
  local line=${COMP_LINE:0:COMP_POINT} words found
  read -ra words <<<"$line"
  [[ $line == *[[:space:]] ]] && words+=("")
  mapfile -t found < <("${words[0]}" --complete "${words[@]:1}" 2>/dev/null)
  local last=${words[-1]}
  local done=${last%"${last##*[=:]}"} # bash completes from the last = or : on
  COMPREPLY=("${found[@]#"$done"}")
  [[ ${#found[@]} -gt 0 && ${found[0]} == *[=.] ]] && compopt -o nospace
}
complete -o default -o bashdefault -F _palio palio
