export let seen: string[];
export function plan(what: { folder: string; at: number; kind: "fail" | "kill" | "halt"; changing?: boolean }): void;
export function death(): Promise<void>;
export function stop(): void;
