interface FileResult {
  readonly file: string;
  readonly passed: number;
  readonly failed: number;
}

export function resultsOf(run: {
  readonly testResults: readonly {
    readonly name: string;
    readonly status: string;
    readonly assertionResults: readonly { readonly status: string }[];
  }[];
}): FileResult[];
export function readResults(path: string): FileResult[] | undefined;
export function triedAgain(results: readonly FileResult[]): string[];
export function withSecond(
  results: readonly FileResult[],
  second: readonly FileResult[],
): { readonly merged: FileResult[]; readonly passedAlone: string[] };
export function sum(results: readonly FileResult[]): { readonly passed: number; readonly failed: number };
