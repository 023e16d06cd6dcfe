import { keyRoles } from './registry';

/** Ids of what a key of a strip can do, and of what a key of the whole unit can. */
export const STRIP_ROLES: readonly string[] = keyRoles.filter((r) => r.of === 'strip').map((r) => r.id);
export const UNIT_ROLES: readonly string[] = keyRoles.filter((r) => r.of === 'unit').map((r) => r.id);
