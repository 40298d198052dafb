import { Argument, type Command } from "commander";
import { placesOf } from "../completion/command-tree.ts";
import { bashScript, fishScript, zshScript } from "../completion/scripts.ts";
import { io } from "../io.ts";

const scripts = { bash: bashScript, zsh: zshScript, fish: fishScript } as const;
type Shell = keyof typeof scripts;

const HOW = `
bash  yh completion bash > ~/.local/share/bash-completion/completions/yh
zsh   yh completion zsh > ~/.zsh/completions/_yh     (a folder of fpath)
fish  yh completion fish > ~/.config/fish/completions/yh.fish`;

/** With the way to have all commands, since only the one that is run is loaded. */
export const addCompletionOf = (whole: () => Promise<Command>) => (program: Command) => {
  program
    .command("completion")
    .description("print what completes the words of yh in a shell")
    .addArgument(new Argument("<shell>", "bash, zsh or fish").choices(Object.keys(scripts)))
    .addHelpText("after", HOW)
    .action(async (shell: Shell) => {
      io().out.write(scripts[shell](placesOf(await whole())));
    });
};
