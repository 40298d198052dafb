/** Where a service listens that was told nothing else. */
export const DEFAULT_URL = "http://127.0.0.1:7420";
