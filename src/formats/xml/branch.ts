/** New elements as they are to be written: attributes, text, and children in order. */
import type { Step } from "../../model/path.js";
import type { MovedRecord, NewRecord, NewValue } from "../../edits/edit.js";
import type { ChildOrder } from "./child-order.js";

/** A value to be put somewhere below an element. */
export interface Field {
  readonly steps: readonly Step[];
  readonly value: NewValue;
}

/** A new element: its attributes, its text or its children, in order. */
export interface Branch {
  readonly attributes: Map<string, string>;
  text: NewValue | null;
  readonly parts: (readonly [name: string, Branch | MovedRecord])[];
}

export function stepName(step: Step): string {
  return step.kind === "name" ? step.name : "*";
}

export function recordName(steps: readonly Step[], record: NewRecord | MovedRecord): string {
  const last = steps[steps.length - 1];
  return last.kind === "name" ? last.name : "moved" in record ? "*" : (record.name ?? "*");
}

export function shorter(field: Field): Field {
  return { ...field, steps: field.steps.slice(1) };
}

export function emptyBranch(): Branch {
  return { attributes: new Map(), text: null, parts: [] };
}

export function branchOf(fields: readonly Field[]): Branch {
  const branch = emptyBranch();
  const names = new Set<string>();
  for (const { steps, value } of fields) {
    if (steps.length === 0) {
      branch.text = value;
      continue;
    }
    const name = stepName(steps[0]);
    if (name.startsWith("@")) branch.attributes.set(name.slice(1), value.text);
    else if (!names.has(name)) {
      names.add(name);
      branch.parts.push([name, branchOf(fields.filter((one) => one.steps.length > 0 && stepName(one.steps[0]) === name).map(shorter))]);
    }
  }
  return branch;
}

export function recordBranch(record: NewRecord): Branch {
  const branch = branchOf(record.fields);
  branch.text ??= record.self;
  for (const { steps, records } of record.inner) {
    let at = branch;
    for (const step of steps.slice(0, -1)) {
      const name = stepName(step);
      const known = at.parts.find(([one, part]) => one === name && !("moved" in part))?.[1] as Branch | undefined;
      const next = known ?? emptyBranch();
      if (known === undefined) at.parts.push([name, next]);
      at = next;
    }
    for (const one of records) at.parts.push([recordName(steps, one), "moved" in one ? one : recordBranch(one)]);
  }
  return branch;
}

/** Puts the parts of a new element in the order that its kind has them in. */
export function arrange({ parts }: Branch, children: ChildOrder | null): void {
  if (children === null) return;
  const names = children.sorted([...new Set(parts.map(([name]) => name))]);
  parts.sort(([one], [other]) => names.indexOf(one) - names.indexOf(other));
  for (const [name, part] of parts) if (!("moved" in part)) arrange(part, children.at(name));
}
