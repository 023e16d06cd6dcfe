export function freePort(): Promise<number>;
export function portIsFree(port: number, host?: string): Promise<boolean>;
export { installDebian, postgresBinaries } from './debian.mjs';
export interface Postgres {
  readonly url: string;
  readonly cluster: string;
  pid(): number | null;
  start(): Promise<void>;
  stop(): Promise<void>;
}
export function startPostgres(
  data: string,
  options?: { readonly quiet?: boolean; readonly keep?: boolean },
): Promise<Postgres>;
