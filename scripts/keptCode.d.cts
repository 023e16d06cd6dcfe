export function runKept(
  file: string,
  folder: string,
  use: string,
): { readonly exports: Record<string, unknown>; readonly keep: () => void };
