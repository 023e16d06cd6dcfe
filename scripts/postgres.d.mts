export function freePort(): Promise<number>;
export function portIsFree(port: number): Promise<boolean>;
export function postgresBinaries(): string | null;
export function installDebian(packages: readonly string[], why: string): void;
export function startPostgres(
  data: string,
  options?: { readonly quiet?: boolean },
): Promise<{ readonly url: string; readonly cluster: string; restart(): void; stop(): void }>;
