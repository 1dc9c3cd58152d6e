# Completion of palio in fish: the tool itself says what could come next.
function __palio_next
    set -l words (commandline -opc)
    $words[1] --complete $words[2..-1] (commandline -ct) 2>/dev/null
end
complete -c palio -a '(__palio_next)'
