/** What a column of a sheet is. Slots of the table are 0 and up. */
export const Column = { Mark: -1, Action: -2, Parent: -3, Unknown: -4 } as const;
