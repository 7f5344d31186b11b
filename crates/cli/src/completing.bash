# Bash takes words apart at colons and equals signs, which addresses and inputs have: here they are put together again, and
# of what is offered only that is left which comes behind the last of them.
_truehook_completed() {
    local words=() word gap at=0 index
    for index in "${!COMP_WORDS[@]}"; do
        word="${COMP_WORDS[index]}"
        gap="${COMP_LINE:at}"
        [[ -n $word ]] && gap="${gap%%"$word"*}" || gap="${COMP_LINE:at:1}"
        if [[ $index -eq 0 || $gap == *[[:space:]]* || ( -z $word && ${COMP_LINE:at-1:1} == [[:space:]] ) ]]; then
            words+=("$word")
        else
            words[${#words[@]}-1]+="$word"
        fi
        at=$((at + ${#gap} + ${#word}))
        [[ $index -eq $COMP_CWORD ]] && break
    done
    COMP_WORDS=("${words[@]}")
    COMP_CWORD=$((${#words[@]} - 1))
    local whole="${COMP_WORDS[COMP_CWORD]}"
    _clap_complete_truehook "$1" "$whole" "$3"
    local before="${whole%"${whole##*[:=]}"}"
    if [[ -n $before && $COMP_WORDBREAKS == *:* ]]; then
        COMPREPLY=("${COMPREPLY[@]#"$before"}")
    fi
}
complete -o nospace -o bashdefault -F _truehook_completed truehook
