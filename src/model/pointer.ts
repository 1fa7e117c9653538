/** JSON Pointers (RFC 6901): how the place of a value is told. */
import type { Step } from "./path.js";

export function escapePointer(name: string): string {
  return /[~/]/.test(name) ? name.replaceAll("~", "~0").replaceAll("/", "~1") : name;
}

export function stepsPointer(steps: readonly Step[]): string {
  return steps.map((step) => `/${step.kind === "name" ? escapePointer(step.name) : step.kind === "place" ? step.place : "*"}`).join("");
}
