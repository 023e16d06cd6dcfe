import { field } from '../../session/fields/shape';
import { SESSION } from '../../session/fields/tables';
import type { CommandKind } from '../kind';

export const fields = { sections: field(SESSION.sections.shape) } as const;

/** Replaces the sections of the song. */
export const sectionsSet: CommandKind<'sections.set'> = {
  fields,
  removes: true,
  run: (draft, { type, sections }) => ({ type, sections: draft.set({ sections }).sections }),
};
