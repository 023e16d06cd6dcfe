import { heldBy } from '@core/groups/vca';
import { levelText } from '@core/levels/decibels';
import { processorOf, processors } from '@core/processors/registry';
import type { Command } from '@core/session/commands/types';
import { activeInserts, addInserts, placeInsert, resetInsert } from '@core/session/gestures/inserts';
import { makeSends, resetCell } from '@core/session/gestures/cells';
import { removeSends, sendTo, setSends } from '@core/session/gestures/returns';
import { faderFromSend, setTap } from '@core/session/gestures/sends';
import { toggleFlag, toggleVca } from '@core/session/gestures/strips';
import { setMembers } from '@core/session/gestures/vcas';
import { monitoredOutput, nameOf, stripOf } from '@core/session/lookup';
import type { Tap } from '@core/session/types';
import { stripControls, type ControlRef } from '@core/automation/control';
import { useCommands } from '@/commands/commands';
import { useInspector } from '@/commands/inspector';
import { useTargets } from '@/session/targets';
import { useStripMenus } from '@/session/stripMenus';
import { useAutomationGestures } from '@/session/automation/useAutomationGestures';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useMenu, type MenuItem } from '@/ui/menu';
import { insertAt, type Row } from './rows';
import { valueCell } from './cells';

/** What a cell offers when it is clicked or asked for its menu. @param renameVca lets a VCA's name be typed */
export function useCellMenus(renameVca: (id: string) => void) {
  const session = useSession();
  const pick = usePick();
  const menu = useMenu();
  const commands = useCommands();
  const inspector = useInspector();
  const { named } = useTargets();
  const { outItems, hear } = useStripMenus();
  const automation = useAutomationGestures();
  const doc = () => session.shown!;

  function openInsert(strip: string, row: Row, at: { clientX: number; clientY: number }) {
    const s = stripOf(doc(), strip);
    const insert = insertAt(s, row);
    if (insert) {
      if (!pick.chosen.has(strip)) pick.only(strip);
      pick.anchor = strip;
      pick.insert = { strip, id: insert.id };
      inspector.show('strip');
      return;
    }
    const group = pick.group(strip);
    const items: MenuItem[] = processors.map((p) => ({
      label: p.name,
      run: () => {
        const done = session.change(named(`${p.name} on`, group), (d) =>
          addInserts(d, group, p.type, row.place ?? 'pre'),
        );
        const made = session
          .strip(strip)
          ?.inserts.filter((i) => i.place === (row.place ?? 'pre'))
          .at(-1);
        if (!done || !made) return;
        if (!pick.chosen.has(strip)) pick.only(strip);
        pick.anchor = strip;
        pick.insert = { strip, id: made.id };
        inspector.show('strip');
      },
    }));
    items.push({ label: 'A preset…', run: () => commands.run('presets', { strips: group }) });
    menu.open(
      `${row.place === 'post' ? 'After the fader' : 'Before the fader'} of ${named('', group).trim()}`,
      items,
      { x: at.clientX, y: at.clientY },
    );
  }

  function openOut(strip: string, at: { clientX: number; clientY: number }) {
    const own = stripOf(doc(), strip);
    if (own.kind === 'output') {
      const heard = monitoredOutput(doc())?.id === strip;
      return menu.open(
        `${own.name || strip} leaves by ${own.pair}–${(own.pair ?? 1) + 1}`,
        [
          {
            label: heard ? 'This output is heard' : 'Hear this output',
            checked: heard,
            run: () => hear(strip),
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
    menu.open(`Out of ${named('', group).trim()}`, outItems(group), {
      x: at.clientX,
      y: at.clientY,
    });
  }

  /** Leads to the lane of what a cell shows. */
  const laneItem = (ref: ControlRef): MenuItem => {
    const has = stripControls(stripOf(doc(), ref.owner)).some(
      (p) => p.lane && p.ref.part === ref.part && p.ref.id === ref.id,
    );
    return {
      label: has ? 'Show its automation' : 'Automate it…',
      run: () => automation.show([ref.owner], ref),
    };
  };
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
        return menu.open(
          `Send to ${row.label}`,
          TAPS.map(([tap, label]) => ({
            label,
            run: () =>
              session.change(named(`send to ${row.label},`, group), (d) =>
                makeSends(d, group, row.ref!, tap),
              ),
          })),
          place,
        );
      const set = (label: string, patch: { tap?: Tap; on?: boolean; pan?: number }) =>
        session.change(named(label, group), (d) =>
          setSends(
            d,
            group.filter((id) => sendTo(d, id, row.ref!)),
            row.ref!,
            patch,
          ),
        );
      return menu.open(
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
                    session.change(named(`pre send to ${row.label} from the fader,`, group), (d) =>
                      setTap(d, group, row.ref!, 'pre', true),
                    ),
                },
              ]
            : []),
          {
            label: 'Fader takes this level and pan',
            run: () =>
              session.change(named(`fader from the send to ${row.label},`, group), (d) =>
                faderFromSend(d, group, row.ref!),
              ),
          },
          {
            label: send.on ? 'Switch off' : 'Switch on',
            keys: 'B',
            run: () => set(`send to ${row.label} ${send.on ? 'off' : 'on'},`, { on: !send.on }),
          },
          laneItem({ part: 'send', owner: strip, id: send.id, control: 'level' }),
          {
            label: 'Remove',
            keys: 'Del',
            danger: true,
            run: () =>
              session.change(named(`no send to ${row.label},`, group), (d) =>
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
      const group = pick.group(strip);
      const { name } = processorOf(insert.type);
      const all = activeInserts(doc(), null, insert.type);
      return menu.open(
        `${name}${insert.key === null ? '' : `, keyed by ${nameOf(doc(), insert.key)}`}`,
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
          { label: 'Its defaults', keys: 'Backspace', run: () => reset(strip, row) },
          {
            label: 'Bypass all of this strip',
            keys: commands.keysOf('bypass'),
            run: () => commands.run('bypass', { strips: group }),
          },
          {
            label: `Bypass every ${name} of the session`,
            disabled: all.length === 0,
            run: () => commands.run('bypassKind', { processor: insert.type }),
          },
          {
            label: `Compare every ${name} dry and wet`,
            disabled: all.length === 0,
            run: () => commands.run('compare', { refs: all, name: `every ${name}` }),
          },
          {
            label: 'Move it to a return…',
            disabled: stripOf(doc(), strip).kind === 'output',
            run: () => commands.run('moveToReturn', { refs: [{ strip, id: insert.id }] }),
          },
          laneItem({ part: 'insert', owner: strip, id: insert.id, control: 'on' }),
          {
            label: 'Presets of its kind…',
            run: () => commands.run('presets', { strips: [strip], insert: insert.id }),
          },
          { label: 'Remove', keys: 'Del', danger: true, run: () => remove({ strip, row }) },
        ],
        place,
      );
    }
    if (row.kind === 'auto') return automation.openModes(group, place);
    if (row.kind === 'level' || row.kind === 'pan' || row.kind === 'buttons') {
      const control = row.kind === 'level' ? 'fader' : row.kind === 'pan' ? 'pan' : 'mute';
      const own = (): MenuItem[] => {
        const cell = valueCell(row);
        if (!cell)
          return (['mute', 'solo', 'soloSafe'] as const).map((f) => ({
            label: f === 'mute' ? 'Mute' : f === 'solo' ? 'Solo' : 'Solo-safe',
            checked: stripOf(doc(), strip)[f],
            run: () =>
              session.change(named(f === 'soloSafe' ? 'solo-safe' : f, group), (d) =>
                toggleFlag(d, group, f),
              ),
          }));
        return [
          {
            label: control === 'fader' ? 'To 0 dB' : 'To the centre',
            keys: 'Backspace',
            run: () => session.change(named(`default ${row.kind},`, group), (d) => resetCell(d, group, cell)),
          },
        ];
      };
      return menu.open(
        `${row.kind === 'level' ? 'Level' : row.kind === 'pan' ? 'Pan' : 'Mute, solo'} of ${nameOf(doc(), strip)}`,
        [...own(), laneItem({ part: 'strip', owner: strip, id: null, control })],
        place,
      );
    }
    if (row.kind === 'input') {
      const s = stripOf(doc(), strip);
      const flag = (f: 'invert' | 'swap', label: string) => ({
        label,
        checked: s[f],
        run: () =>
          session.change(named(f === 'invert' ? 'polarity of' : 'swap', group), (d) =>
            toggleFlag(d, group, f),
          ),
      });
      return menu.open(
        'Input',
        [
          flag('invert', 'Invert polarity'),
          ...(s.channels === 2 ? [flag('swap', 'Swap left and right')] : []),
        ],
        place,
      );
    }
    if (row.kind === 'cap') {
      return menu.open(
        named('', group).trim(),
        [
          'rename',
          'trace',
          'ripple',
          'gather',
          'return',
          'vca',
          'link',
          'copySettings',
          'pasteSettings',
          'pasteParts',
          'presets',
          'bypass',
          'resetStrips',
          'soloSafe',
          'hide',
          'remove',
        ].map((id) => {
          const a = commands.action(id);
          return {
            label: a.title,
            keys: commands.keysOf(id),
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
    menu.open(
      `VCA ${vca.name}`,
      [
        { label: 'Rename', run: () => renameVca(id) },
        {
          label: 'What does it change?',
          run: () => commands.run('vcaEffect', { vca: id }),
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
        ...automation.modeItems([id]),
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
  function reset(strip: string, row: Row) {
    const insert = insertAt(stripOf(doc(), strip), row);
    if (insert)
      session.change(`defaults of ${processorOf(insert.type).name}, ${nameOf(doc(), strip)}`, (d) =>
        resetInsert(d, { strip, id: insert.id }),
      );
  }
  /** Moves an insert by keyboard, or a copy of it; up and down within its strip, left and right to the next one. */
  function carry(strip: string, row: Row, arrow: string, copy: boolean) {
    const insert = insertAt(stripOf(doc(), strip), row);
    if (!insert) return null;
    const order = pick.reachable;
    const across = arrow === 'ArrowLeft' ? -1 : arrow === 'ArrowRight' ? 1 : 0;
    const to = across ? order[order.indexOf(strip) + across] : strip;
    if (!to) return null;
    const side = stripOf(doc(), to).inserts.filter((i) => i.place === insert.place);
    let { place } = insert;
    let at = across ? Math.min(row.index!, side.length) : row.index! + (arrow === 'ArrowUp' ? -1 : 2);
    if (!across && at > side.length) [place, at] = ['post', 0];
    if (!across && at < 0) [place, at] = ['pre', Infinity];
    if (!across && place === insert.place && at > side.length) return null;
    let moved: string | null = null;
    session.change(
      `${copy ? 'copy' : 'move'} ${processorOf(insert.type).name} ${across ? `to ${nameOf(doc(), to)}` : 'in its chain'}`,
      (d) => {
        const placed = placeInsert(d, { strip, id: insert.id }, { strip: to, place, at }, copy);
        moved = placed.id;
        return placed.commands;
      },
    );
    const there = stripOf(doc(), to).inserts.find((i) => i.id === moved);
    if (!there) return null;
    const index = stripOf(doc(), to)
      .inserts.filter((i) => i.place === there.place)
      .indexOf(there);
    return { strip: to, row: `${there.place}:${index}` };
  }
  function remove({ strip, row }: { strip: string; row: Row }) {
    const group = pick.group(strip);
    if (row.kind === 'send')
      session.change(named(`no send to ${row.label},`, group), (d) => removeSends(d, group, row.ref!));
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
      commands.run('remove');
    }
  }

  return { openInsert, openOut, openCellMenu, openVcaMenu, bypass, reset, carry, remove };
}
