/** What is drawn in docs/screenshots, and where it is noted from which sources that was drawn last. */
export const DRAWN_FROM = ["packages/console/src", "packages/cli/src", "packages/lab/src"];
export const DRAWN_STAMP = "docs/screenshots/drawn-from.txt";
