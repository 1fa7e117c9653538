/** A listener that wants nothing: only the watcher of records listens. */
import type { Listener, Scanner } from "./format.js";

export class SilentListener implements Listener {
  scanner!: Scanner;
  open(): void {
    // nothing is wanted
  }
  close(): void {
    // nothing is wanted
  }
  value(): void {
    // nothing is wanted
  }
  leave(): void {
    // nothing is kept by position
  }
}
