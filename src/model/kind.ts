/** What a value is. Numbers, so that a row of them fits a `Uint8Array`; 0 is "not there". */
export const Kind = {
  Absent: 0,
  Null: 1,
  Text: 2,
  Number: 3,
  True: 4,
  False: 5,
  List: 6,
  Record: 7,
  EmptyList: 8,
  EmptyRecord: 9,
} as const;
export type Kind = (typeof Kind)[keyof typeof Kind];
