import type { IconId } from '../naming/iconIds';
import { iconFor } from '../naming/icons';
import type { Command } from '../edits/commands';
import type { Id } from '../base/units';
import type { Session, Strip, Vca } from '../session/types';

type Owner = Strip | Vca;
const isVca = (x: Owner): x is Vca => 'members' in x;
const ownersOf = (session: Session, ids: readonly Id[]): readonly Owner[] =>
  [...session.strips, ...session.vcas].filter((x) => ids.includes(x.id));
const setting = (x: Owner, icon: IconId): Command =>
  isVca(x)
    ? { type: 'vca.set', id: x.id, patch: { icon } }
    : { type: 'strip.set', id: x.id, patch: { icon } };

/** The icon that the name of a strip or a VCA suggests. */
export const suggestedIcon = (x: Owner): IconId =>
  iconFor(isVca(x) ? { name: x.name, family: '', kind: 'vca' } : x);

/** Gives strips and VCAs an icon, or takes it away. @param ids those of strips and VCAs @param icon `none` takes it away */
export const setIcons = (session: Session, ids: readonly Id[], icon: IconId): readonly Command[] =>
  ownersOf(session, ids)
    .filter((x) => x.icon !== icon)
    .map((x) => setting(x, icon));

/** Gives strips and VCAs the icons that their names suggest; where a name suggests none, what is there stays. */
export const suggestIcons = (session: Session, ids: readonly Id[]): readonly Command[] =>
  ownersOf(session, ids).flatMap((x) => {
    const icon = suggestedIcon(x);
    return icon === 'none' || icon === x.icon ? [] : [setting(x, icon)];
  });

/** Strips and VCAs without an icon whose names suggest one. */
export const iconless = (session: Session): readonly Id[] =>
  [...session.strips, ...session.vcas]
    .filter((x) => x.icon === 'none' && suggestedIcon(x) !== 'none')
    .map((x) => x.id);
