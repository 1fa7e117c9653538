/** The package's own folder. The command line is bundled into one file in this file's folder, so that the way to it stays. */
export const ROOT = new URL("../../", import.meta.url);
