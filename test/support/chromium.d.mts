export function findChromium(): string | null;
