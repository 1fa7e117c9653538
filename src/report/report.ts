export type ReportKind = "html" | "markdown" | "json" | "patch";
export const REPORT_KINDS: readonly ReportKind[] = ["html", "markdown", "json", "patch"];
export function writeReport(): string {
  return "";
}
