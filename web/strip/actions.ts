import { useDialogs } from '@/commands/dialogs';
import type { Action, Given } from '@/commands/feature';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { useStripMenus } from '@/session/stripMenus';
import { useTargets } from '@/session/targets';
import { useNotices } from '@/ui/notices';
import { useSettingsGestures } from './settingsGestures';
import { useStripGestures } from './stripGestures';

/** What can be done with strips. */
export function stripActions(): readonly Action[] {
  const session = useSession();
  const pick = usePick();
  const settings = useSettings();
  const notices = useNotices();
  const dialogs = useDialogs();
  const given = useSettingsGestures();
  const strips = useStripGestures();
  const menus = useStripMenus();
  const { targets, some, none } = useTargets();

  /** Opens a dialog about the picked strips. */
  const ask = (name: string, what: string | null) => () => {
    if (what !== null && !some()) return none(what);
    dialogs.show(name, { strips: targets() });
  };
  function link() {
    if (targets().length < 2)
      return notices.refused(
        'A link takes two strips or more. Pick them first, by Ctrl and a click on their names.',
      );
    dialogs.show('link', { strips: targets() });
  }
  const presets = (of?: Given) =>
    dialogs.show('presets', { strips: of?.strips ?? targets(), insert: of?.insert ?? null });
  const output = () => targets().find((id) => session.strip(id)?.kind === 'output');

  const one = (action: Action): Action => ({ enabled: some, ...action });
  return [
    one({
      id: 'gather',
      title: 'Gather the picked strips into a new submix',
      keys: 'G',
      group: 'Strips',
      run: strips.gatherPicked,
    }),
    {
      id: 'return',
      title: 'New return, fed by the picked strips',
      keys: 'R',
      group: 'Strips',
      run: strips.returnPicked,
    },
    one({
      id: 'vca',
      title: 'Hold the picked strips by a new VCA',
      keys: 'V',
      group: 'Strips',
      run: strips.vcaPicked,
    }),
    one({
      id: 'mute',
      title: 'Mute the picked strips',
      keys: 'M',
      group: 'Strips',
      run: () => strips.toggle('mute', 'mute'),
    }),
    one({
      id: 'solo',
      title: 'Solo the picked strips',
      keys: 'S',
      group: 'Strips',
      run: () => strips.toggle('solo', 'solo'),
    }),
    one({
      id: 'soloSafe',
      title: 'Make the picked strips solo-safe, or not',
      keys: 'Shift+S',
      group: 'Strips',
      run: () => strips.toggle('soloSafe', 'solo-safe'),
    }),
    one({
      id: 'dry',
      title: 'Switch the dry path of the picked strips',
      keys: 'D',
      group: 'Strips',
      run: strips.dryPath,
    }),
    one({
      id: 'hide',
      title: 'Hide the picked strips',
      keys: 'H',
      group: 'Strips',
      run: () => {
        strips.toggle('hidden', 'hide');
        pick.none();
      },
    }),
    {
      id: 'show',
      title: 'Show all hidden strips',
      keys: 'Shift+H',
      group: 'Strips',
      enabled: () => strips.hidden().length > 0,
      run: strips.showHidden,
    },
    one({
      id: 'remove',
      title: 'Remove the picked strips',
      keys: 'Shift+Delete',
      group: 'Strips',
      run: strips.removePicked,
    }),
    one({
      id: 'sends',
      title: 'Sends of the picked strips…',
      keys: 'Shift+X',
      group: 'Strips',
      run: ask('sends', 'send'),
    }),
    {
      id: 'returnAs',
      title: 'New return, with effect, tap and level chosen…',
      keys: 'Shift+R',
      group: 'Strips',
      run: ask('return', null),
    },
    one({
      id: 'renameMany',
      title: 'Rename the picked strips by a pattern…',
      keys: 'Shift+N',
      group: 'Strips',
      run: ask('rename', 'rename'),
    }),
    {
      id: 'tidy',
      title: 'Tidy: families, order, colours, pairs…',
      keys: 'Shift+O',
      group: 'Strips',
      run: () => dialogs.show('tidy'),
    },
    one({
      id: 'dissolve',
      title: 'Dissolve the picked submix into its feeders',
      keys: 'Shift+G',
      group: 'Strips',
      run: strips.dissolvePicked,
    }),
    one({
      id: 'copySettings',
      title: 'Copy the strip’s settings',
      keys: 'Ctrl+C',
      group: 'Settings',
      run: given.copySettings,
    }),
    one({
      id: 'pasteSettings',
      title: 'Paste settings: inserts, sends, fader, pan, input',
      keys: 'Ctrl+V',
      group: 'Settings',
      run: given.paste,
    }),
    one({
      id: 'pasteParts',
      title: 'Paste settings, parts chosen…',
      keys: 'Ctrl+Shift+V',
      group: 'Settings',
      run: given.openPaste,
    }),
    {
      id: 'presets',
      title: 'Presets for the picked strips…',
      keys: 'P',
      group: 'Settings',
      run: presets,
    },
    one({ id: 'link', title: 'Link the picked strips…', keys: 'K', group: 'Settings', run: link }),
    one({
      id: 'resetStrips',
      title: 'Return the picked strips to their defaults',
      keys: '',
      group: 'Settings',
      run: given.reset,
    }),
    { id: 'output', title: 'New output', keys: '', group: 'Strips', run: strips.addOutput },
    {
      id: 'hear',
      title: 'Hear the picked output',
      keys: '',
      group: 'Strips',
      enabled: () => output() !== undefined,
      run: () => output() !== undefined && menus.hear(output()!),
    },
    one({
      id: 'left',
      title: 'Move the picked strips left',
      keys: 'Alt+ArrowLeft',
      group: 'Strips',
      run: () => strips.shift(-1),
    }),
    one({
      id: 'right',
      title: 'Move the picked strips right',
      keys: 'Alt+ArrowRight',
      group: 'Strips',
      run: () => strips.shift(1),
    }),
    one({
      id: 'pickFamily',
      title: 'Pick the whole family',
      keys: 'Shift+F',
      group: 'Strips',
      run: () => strips.pickBy('family'),
    }),
    one({
      id: 'pickKind',
      title: 'Pick all of this kind',
      keys: 'Shift+K',
      group: 'Strips',
      run: () => strips.pickBy('kind'),
    }),
    one({
      id: 'pickColour',
      title: 'Pick all of this colour',
      keys: 'Shift+C',
      group: 'Strips',
      run: () => strips.pickBy('colour'),
    }),
    one({
      id: 'pickFeeds',
      title: 'Pick everything that feeds this',
      keys: 'Shift+E',
      group: 'Strips',
      run: () => strips.pickBy('feeds'),
    }),
    { id: 'all', title: 'Pick all strips', keys: 'Ctrl+A', group: 'Strips', run: () => pick.all() },
    { id: 'nopick', title: 'Pick none', keys: 'Escape', group: 'Strips', run: () => pick.none() },
    {
      id: 'placeAfter',
      title: 'New submixes stand after the last picked strip',
      keys: '',
      group: 'Strips',
      enabled: () => settings.placement !== 'after',
      run: () => (settings.placement = 'after'),
    },
    {
      id: 'placeEnd',
      title: 'New submixes stand at the end',
      keys: '',
      group: 'Strips',
      enabled: () => settings.placement !== 'end',
      run: () => (settings.placement = 'end'),
    },
  ];
}
