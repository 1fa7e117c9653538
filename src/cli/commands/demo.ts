import type { Command } from "commander";
import type { Io } from "../io.js";
import type { Run } from "../main.js";

export function addDemo(_program: Command, _io: Io, _run: Run): void {
  // the walk through is registered once the demo's data is there
}
