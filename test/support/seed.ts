/** Says once what the laws draw from. */
import { RUNS, SEED } from "./runs.js";

export default function setup(): void {
  process.stdout.write(`laws: ${RUNS} runs each, from seed ${SEED} (LAW_RUNS, LAW_SEED)\n`);
}
