import type { Role } from '@core/base/role';

/** A machine that was let in. */
export interface Device {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  /** Of a controller that speaks OSC. */
  readonly address: string | null;
  readonly seenAt: string;
}
/** Who asks, as the server answers `GET /access`; the rest is told at the machine itself. */
export interface MachinesState {
  readonly own: boolean;
  readonly role: Role | null;
  readonly name: string | null;
  readonly https?: readonly string[];
  readonly studio?: {
    readonly open: boolean;
    readonly forced: boolean;
    readonly http: readonly string[];
    readonly https: readonly string[];
    readonly selfMade: boolean;
    readonly problem: string | null;
  } | null;
  readonly code?: { readonly code: string; readonly role: Role; readonly until: number } | null;
  readonly devices?: readonly Device[];
}
