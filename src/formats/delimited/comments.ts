/** What a line of comment begins with, here and in other programs. */
export const COMMENTS: readonly string[] = ["#", "//"];
