export const FRAGILE: Readonly<Record<string, readonly string[]>>;
