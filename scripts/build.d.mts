export function buildEngine(): void;
export function buildPage(): void;
