/**
 * What another machine may do, each more than the one before: hear and see; work the touch desk and the transport, with nothing deleted and nothing
 * brought in; everything.
 */
export const ROLES = ['listen', 'hands', 'mix'] as const;
export type Role = (typeof ROLES)[number];

/** Whether a role is enough. */
export const suffices = (role: Role, least: Role): boolean => ROLES.indexOf(role) >= ROLES.indexOf(least);
