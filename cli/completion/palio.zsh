#compdef palio
# Completion of palio in zsh: the tool itself says what could come next.
local -a found going
found=("${(@f)$("${words[1]}" --complete "${(@)words[2,CURRENT]}" 2>/dev/null)}")
found=("${(@)found:#}")
going=("${(@M)found:#*[=.]}")
found=("${(@)found:#*[=.]}")
(( ${#going} )) && compadd -S '' -- "${going[@]}"
(( ${#found} )) && compadd -- "${found[@]}"
(( ${#going} + ${#found} )) || _files
