import type { Place, Word } from "./command-tree.ts";

const HEADER = "# Completion of yh, made by `yh completion`. Make it anew after an upgrade.";

const words = (list: readonly Word[]) => list.map(({ word }) => word).join(" ");
const wordsOf = ({ commands, options }: Place) => `${words(commands)} ${words(options)}`.trim();

/** Goes along the words that are typed already, as long as they name a command. */
const alongBash = (places: readonly Place[]) =>
  places
    .filter(({ path }) => path !== "")
    .map(({ path }) => `"${path}"`)
    .join("|");

export const bashScript = (places: readonly Place[]): string => `${HEADER}
_yh() {
  local cur="\${COMP_WORDS[COMP_CWORD]}" path="" word next n
  for (( n = 1; n < COMP_CWORD; n++ )); do
    word="\${COMP_WORDS[n]}"
    next="\${path:+$path }$word"
    case "$next" in
      ${alongBash(places)}) path="$next" ;;
    esac
  done
  case "$path" in
${places.map((place) => `    "${place.path}") COMPREPLY=( $(compgen -W "${wordsOf(place)}" -- "$cur") ) ;;`).join("\n")}
  esac
}
complete -o default -F _yh yh
`;

const described = (list: readonly Word[]) =>
  list.map(({ word, about }) => `'${word}:${about.replaceAll(":", "\\:")}'`).join(" ");

export const zshScript = (places: readonly Place[]): string => `#compdef yh
${HEADER}
_yh() {
  local current="" word next n
  local -a choices
  for (( n = 2; n < CURRENT; n++ )); do
    word="\${words[n]}"
    next="\${current:+$current }$word"
    case "$next" in
      ${alongBash(places)}) current="$next" ;;
    esac
  done
  case "$current" in
${places.map((place) => `    "${place.path}") choices=( ${described([...place.commands, ...place.options])} ) ;;`).join("\n")}
  esac
  _describe yh choices || _files
}
(( $+functions[compdef] )) && compdef _yh yh
`;

export const fishScript = (places: readonly Place[]): string => `${HEADER}
function __yh_path
  set -l path ""
  for word in (commandline -opc)[2..]
    set -l next (string trim "$path $word")
    contains -- "$next" ${places
      .filter(({ path }) => path !== "")
      .map(({ path }) => `"${path}"`)
      .join(" ")}; and set path "$next"
  end
  echo "$path"
end
complete -c yh -e
${places.flatMap(linesOfFish).join("\n")}
`;

function linesOfFish({ path, commands, options }: Place): string[] {
  const here = `-n 'test (__yh_path) = "${path}"'`;
  return [
    ...commands.map(({ word, about }) => `complete -c yh -f ${here} -a ${word} -d '${about}'`),
    ...options.map(({ word, about }) => `complete -c yh ${here} -l ${word.replace(/^--/, "")} -d '${about}'`),
  ];
}
