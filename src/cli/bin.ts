#!/usr/bin/env node
/** The executable: maps the command's result to the exit status, and nothing else. */
import { main } from "./main.js";
import { processIo } from "./process-io.js";

const { io, settle } = processIo();
const status = await main(process.argv.slice(2), io);
const failed = await settle();
if (failed !== null) process.stderr.write(`hatchfold: ${failed.toString()}\n`);
process.exitCode = failed === null ? status : failed.status;
