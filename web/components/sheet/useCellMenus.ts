import { heldBy } from '../../../core/groups/vca';
import { levelText } from '../../../core/levels/decibels';
import { processors } from '../../../core/processors/registry';
import type { Command } from '../../../core/session/commands/types';
import { newInsert } from '../../../core/session/defaults';
import { makeSends } from '../../../core/session/gestures/cells';
import { removeSends, sendTo, setSends } from '../../../core/session/gestures/returns';
import { faderFromSend, setTap } from '../../../core/session/gestures/sends';
import { toggleFlag, toggleVca } from '../../../core/session/gestures/strips';
import { setMembers } from '../../../core/session/gestures/vcas';
import { freshId, monitoredOutput, nameOf, stripOf } from '../../../core/session/lookup';
import type { Strip, Tap } from '../../../core/session/types';
import { useActions } from '../../actions/actions';
import { useAnswers } from '../../stores/answers';
import { usePick } from '../../stores/pick';
import { useSession } from '../../stores/session';
import { useSettings } from '../../stores/settings';
import type { MenuItem } from '../menu';
import { insertAt, type Row } from './rows';

/** What a cell offers when it is clicked or asked for its menu. @param renameVca lets a VCA's name be typed */
export function useCellMenus(renameVca: (id: string) => void) {
  const session = useSession();
  const pick = usePick();
  const settings = useSettings();
  const actions = useActions();
  const answers = useAnswers();
  const doc = () => session.shown!;

  function openInsert(strip: string, row: Row, at: { clientX: number; clientY: number }) {
    const s = stripOf(doc(), strip);
    const insert = insertAt(s, row);
    if (insert) {
      if (!pick.chosen.has(strip)) pick.only(strip);
      pick.anchor = strip;
      pick.insert = { strip, id: insert.id };
      settings.inspector = true;
      return;
    }
    const group = pick.group(strip);
    const items: MenuItem[] = processors.map((p) => ({
      label: `Add ${p.name}`,
      run: () => {
        const taken = new Set<string>();
        session.change(actions.named(`${p.name} on`, group), (d) =>
          group.map((id): Command => {
            const made = newInsert({
              id: freshId(d, `${id}-${p.type}`, taken),
              type: p.type,
              place: row.place ?? 'pre',
              mix: p.ambient && stripOf(d, id).kind !== 'return' ? 0.3 : 1,
            });
            taken.add(made.id);
            return {
              type: 'insert.add',
              strip: id,
              insert: made,
              at: lastOf(stripOf(d, id), row.place ?? 'pre'),
            };
          }),
        );
      },
    }));
    actions.openMenu(
      `${row.place === 'post' ? 'After the fader' : 'Before the fader'} of ${actions.named('', group).trim()}`,
      items,
      { x: at.clientX, y: at.clientY },
    );
  }
  /** Where a new insert goes in a strip's list: after the last of its place. */
  const lastOf = (s: Strip, place: 'pre' | 'post') =>
    place === 'post' ? s.inserts.length : s.inserts.filter((i) => i.place === 'pre').length;

  function openOut(strip: string, at: { clientX: number; clientY: number }) {
    const own = stripOf(doc(), strip);
    if (own.kind === 'output') {
      const heard = monitoredOutput(doc())?.id === strip;
      return actions.openMenu(
        `${own.name || strip} leaves by ${own.pair}–${(own.pair ?? 1) + 1}`,
        [
          {
            label: heard ? 'This output is heard' : 'Hear this output',
            checked: heard,
            run: () => actions.hearOutput(strip),
          },
          ...[1, 3, 5, 7, 9, 11, 13, 15].map((pair) => ({
            label: `Channels ${pair}–${pair + 1}`,
            checked: own.pair === pair,
            run: () =>
              session.commit(`channels of ${own.name || strip}`, [
                { type: 'strip.set', id: strip, patch: { pair } },
              ]),
          })),
        ],
        { x: at.clientX, y: at.clientY },
      );
    }
    const group = pick.group(strip).filter((id) => stripOf(doc(), id).kind !== 'output');
    actions.openMenu(`Out of ${actions.named('', group).trim()}`, actions.outItems(group), {
      x: at.clientX,
      y: at.clientY,
    });
  }

  const TAPS: readonly [Tap, string][] = [
    ['post', 'Post-fader: after fader and pan'],
    ['pre', 'Pre-fader: after the inserts before it'],
    ['input', 'Input: before all inserts'],
  ];
  function openCellMenu(hit: { strip: string; row: Row }, at: { clientX: number; clientY: number }) {
    const { strip, row } = hit;
    const group = pick.group(strip);
    const place = { x: at.clientX, y: at.clientY };
    if (row.kind === 'send') {
      const send = sendTo(doc(), strip, row.ref!);
      if (!send)
        return actions.openMenu(
          `Send to ${row.label}`,
          TAPS.map(([tap, label]) => ({
            label,
            run: () =>
              session.change(actions.named(`send to ${row.label},`, group), (d) =>
                makeSends(d, group, row.ref!, tap),
              ),
          })),
          place,
        );
      const set = (label: string, patch: { tap?: Tap; on?: boolean; pan?: number }) =>
        session.change(actions.named(label, group), (d) =>
          setSends(
            d,
            group.filter((id) => sendTo(d, id, row.ref!)),
            row.ref!,
            patch,
          ),
        );
      return actions.openMenu(
        `Send to ${row.label}, ${levelText(send.levelDb)} dB`,
        [
          ...TAPS.map(([tap, label]) => ({
            label,
            checked: send.tap === tap,
            keys: send.tap === tap ? 'F' : undefined,
            run: () => set(`${tap} send to ${row.label},`, { tap }),
          })),
          ...(send.tap === 'post'
            ? [
                {
                  label: 'Pre-fader, from the fader’s level and pan',
                  run: () =>
                    session.change(actions.named(`pre send to ${row.label} from the fader,`, group), (d) =>
                      setTap(d, group, row.ref!, 'pre', true),
                    ),
                },
              ]
            : []),
          {
            label: 'Fader takes this level and pan',
            run: () =>
              session.change(actions.named(`fader from the send to ${row.label},`, group), (d) =>
                faderFromSend(d, group, row.ref!),
              ),
          },
          {
            label: send.on ? 'Switch off' : 'Switch on',
            keys: 'B',
            run: () => set(`send to ${row.label} ${send.on ? 'off' : 'on'},`, { on: !send.on }),
          },
          {
            label: 'Remove',
            keys: 'Del',
            danger: true,
            run: () =>
              session.change(actions.named(`no send to ${row.label},`, group), (d) =>
                removeSends(d, group, row.ref!),
              ),
          },
        ],
        place,
      );
    }
    if (row.kind === 'out') return openOut(strip, at);
    if (row.kind === 'insert') {
      const insert = insertAt(stripOf(doc(), strip), row);
      if (!insert) return openInsert(strip, row, at);
      return actions.openMenu(
        'Insert',
        [
          { label: insert.on ? 'Bypass' : 'Switch on', keys: 'B', run: () => bypass(strip, row) },
          {
            label: insert.place === 'pre' ? 'Move after the fader' : 'Move before the fader',
            run: () =>
              session.commit(`place of insert, ${nameOf(doc(), strip)}`, [
                {
                  type: 'insert.set',
                  strip,
                  id: insert.id,
                  patch: { place: insert.place === 'pre' ? 'post' : 'pre' },
                },
              ]),
          },
          { label: 'Remove', keys: 'Del', danger: true, run: () => remove({ strip, row }) },
        ],
        place,
      );
    }
    if (row.kind === 'input') {
      const s = stripOf(doc(), strip);
      const flag = (f: 'invert' | 'swap', label: string) => ({
        label,
        checked: s[f],
        run: () =>
          session.change(actions.named(f === 'invert' ? 'polarity of' : 'swap', group), (d) =>
            toggleFlag(d, group, f),
          ),
      });
      return actions.openMenu(
        'Input',
        [
          flag('invert', 'Invert polarity'),
          ...(s.channels === 2 ? [flag('swap', 'Swap left and right')] : []),
        ],
        place,
      );
    }
    if (row.kind === 'cap') {
      return actions.openMenu(
        actions.named('', group).trim(),
        ['rename', 'trace', 'ripple', 'gather', 'return', 'vca', 'soloSafe', 'hide', 'remove'].map((id) => {
          const a = actions.byId.get(id)!;
          return {
            label: a.title,
            keys: actions.keysOf(id),
            danger: id === 'remove',
            run: () => {
              if (!pick.chosen.has(strip)) pick.only(strip);
              a.run();
            },
          };
        }),
        place,
      );
    }
  }
  function openVcaMenu(id: string, at: MouseEvent) {
    const vca = doc().vcas.find((v) => v.id === id)!;
    actions.openMenu(
      `VCA ${vca.name}`,
      [
        { label: 'Rename', run: () => renameVca(id) },
        {
          label: 'What does it change?',
          run: () => {
            settings.inspector = true;
            answers.askVca(id);
          },
        },
        {
          label: 'Mute',
          checked: vca.mute,
          run: () => session.change(`mute VCA ${vca.name}`, (d) => toggleVca(d, id, 'mute')),
        },
        {
          label: 'Solo',
          checked: vca.solo,
          run: () => session.change(`solo VCA ${vca.name}`, (d) => toggleVca(d, id, 'solo')),
        },
        { label: 'Pick its strips', run: () => pick.set(heldBy(doc(), id).map((s) => s.id)) },
        {
          label: 'Hold the picked strips too',
          disabled: pick.picked.length === 0,
          run: () => session.change(`hold by ${vca.name}`, (d) => setMembers(d, id, pick.picked, true)),
        },
        {
          label: 'Remove the VCA',
          danger: true,
          run: () =>
            session.change(`remove VCA ${vca.name}`, (d) => [
              ...d.vcas
                .filter((v) => v.members.includes(id))
                .map((v): Command => ({
                  type: 'vca.members',
                  id: v.id,
                  members: v.members.filter((m) => m !== id),
                })),
              { type: 'vca.remove', id },
            ]),
        },
      ],
      { x: at.clientX, y: at.clientY },
    );
  }
  function bypass(strip: string, row: Row) {
    const insert = insertAt(stripOf(doc(), strip), row);
    if (insert)
      session.commit(`${insert.on ? 'bypass' : 'switch on'} insert, ${nameOf(doc(), strip)}`, [
        { type: 'insert.set', strip, id: insert.id, patch: { on: !insert.on } },
      ]);
  }
  function remove({ strip, row }: { strip: string; row: Row }) {
    const group = pick.group(strip);
    if (row.kind === 'send')
      session.change(actions.named(`no send to ${row.label},`, group), (d) =>
        removeSends(d, group, row.ref!),
      );
    else if (row.kind === 'insert') {
      const insert = insertAt(stripOf(doc(), strip), row);
      if (insert)
        session.commit(`remove insert, ${nameOf(doc(), strip)}`, [
          { type: 'insert.remove', strip, id: insert.id },
        ]);
    } else if (row.kind === 'rail')
      session.change(`let go from ${row.label}`, (d) => setMembers(d, row.ref!, group, false));
    else if (row.kind === 'cap') {
      if (!pick.chosen.has(strip)) pick.only(strip);
      actions.removePicked();
    }
  }

  return { openInsert, openOut, openCellMenu, openVcaMenu, bypass, remove };
}
