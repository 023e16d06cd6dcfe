export function buildEngine(): void;
export function buildPage(): void;
export function buildCommands(): void;
