export function postgresBinaries(version?: string): string | null;
export function installDebian(packages: readonly string[], why: string): void;
