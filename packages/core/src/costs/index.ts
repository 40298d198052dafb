export { costsView } from "./view.ts";
