import type { Command } from "commander";
import type { Io } from "../io.js";
import type { Main, Run } from "../command.js";

export function addDemo(program: Command, io: Io, run: Run, main: Main): void {
  program
    .command("demo")
    .description("walk through all of it on made-up data of every format, in demo-out/")
    .option("-o, --output <folder>", "where the demo's files go", "demo-out")
    .action((options: { output: string; color?: boolean }) =>
      run(import("../runs/demo.js").then((one) => one.runDemo(options.output, options.color, io, main))),
    );
}
