/** One step of a way through the source: an item's place, a name that is not in the source, or where the member's name stands (text span, source offsets). */
export type TrailStep = number | string | readonly [nameStart: number, nameEnd: number];
export type Trail = readonly TrailStep[];
