/** What a schema says of the records of a document, as far as a draft of a plan can use it. */
import type { ColumnType } from "./plan.js";

/** A record, a value, or both: the text of an element with attributes. */
export interface SchemaNode {
  /** Members of a record, in the order of the schema. */
  readonly fields: readonly SchemaField[];
  /** What a value may be; `null` where there is none. */
  readonly value: SchemaValue | null;
}

export interface SchemaField {
  /** As paths of plans call it: `height`, `@code`. */
  readonly name: string;
  readonly required: boolean;
  /** There may be several. */
  readonly isList: boolean;
  readonly node: () => SchemaNode;
}

export interface SchemaValue {
  readonly type: ColumnType;
  readonly choices?: readonly string[];
  readonly minimum?: string;
  readonly maximum?: string;
  readonly minLength?: number;
  readonly maxLength?: number;
  readonly pattern?: string;
}
