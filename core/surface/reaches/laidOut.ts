import { deskOrder } from '../faded';
import type { ReachKind } from './reach';

export const laidOut: ReachKind = {
  id: 'laidOut',
  word: 'LAYOUT',
  name: 'Laid out',
  about:
    "An order of one's own, by name, of which a session may have several; with *second* held, the next one.",
  begin({ session }) {
    const first = session.layouts[0];
    return first ? { subject: first.id, ids: [] } : 'No layout: make one on the page';
  },
  next({ session: { layouts } }, { subject }) {
    const at = layouts.findIndex((l) => l.id === subject);
    return layouts[(at + 1) % Math.max(1, layouts.length)]?.id ?? null;
  },
  list({ session }, { subject }) {
    const shown = new Set(deskOrder(session));
    // A layout that is gone, as when it was taken back, leaves no window empty.
    const order = session.layouts.find((l) => l.id === subject)?.order ?? deskOrder(session);
    return [...new Set(order)].filter((id) => shown.has(id));
  },
  subject: ({ session }, { subject }) => session.layouts.find((l) => l.id === subject)?.name ?? '',
};
