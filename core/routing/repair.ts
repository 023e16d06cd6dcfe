import type { Command } from '../edits/commands';

/** A step that mends something, as a label and the edit that does it. */
export interface Repair {
  readonly label: string;
  readonly commands: readonly Command[];
}
