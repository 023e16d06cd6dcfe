import { useDialogs } from '@/commands/dialogs';
import type { Action, Given } from '@/commands/feature';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { saveStems as saveFiles, stemFiles } from '@/session/stems/saveStems';
import { useStripMenus } from '@/session/stripMenus';
import { useTargets } from '@/session/targets';
import { useNotices } from '@/ui/notices';
import { useSettingsEdits } from './settingsEdits';
import { useStripEdits } from './stripEdits';
import { say } from './texts';

/** What can be done with strips. */
export function stripActions(): readonly Action[] {
  const session = useSession();
  const pick = usePick();
  const settings = useSettings();
  const notices = useNotices();
  const dialogs = useDialogs();
  const given = useSettingsEdits();
  const strips = useStripEdits();
  const menus = useStripMenus();
  const { targets, some, none } = useTargets();

  /** Opens a dialog about the picked strips. */
  const ask = (name: string, what: string | null) => () => {
    if (what !== null && !some()) return none(what);
    dialogs.show(name, { strips: targets() });
  };
  function link() {
    if (targets().length < 2) return notices.refused(say('linkTakesTwoStripsMore'));
    dialogs.show('link', { strips: targets() });
  }
  function icon(of?: Given) {
    if (!of?.strips && !some()) return none(say('giveAnIcon'));
    dialogs.show('icon', { strips: of?.strips ?? targets() });
  }
  function saveStems() {
    const files = session.shown ? stemFiles(session.shown, targets()) : [];
    if (files.length === 0) return notices.refused(say('pickSourcesWithStems'));
    void saveFiles(files);
  }
  const presets = (of?: Given) =>
    dialogs.show('presets', { strips: of?.strips ?? targets(), insert: of?.insert ?? null });
  const output = () => targets().find((id) => session.strip(id)?.kind === 'output');

  const one = (action: Action): Action => ({ enabled: some, ...action });
  return [
    one({
      id: 'gather',
      title: say('gatherPickedStripsIntoNew'),
      keys: 'G',
      group: 'Strips',
      run: strips.gatherPicked,
    }),
    {
      id: 'return',
      title: say('newReturnFedPickedStrips'),
      keys: 'R',
      group: 'Strips',
      run: strips.returnPicked,
    },
    one({
      id: 'vca',
      title: say('holdPickedStripsNewVca'),
      keys: 'V',
      group: 'Strips',
      run: strips.vcaPicked,
    }),
    one({
      id: 'mute',
      title: say('muteThePickedStrips'),
      keys: 'M',
      group: 'Strips',
      run: () => strips.toggle('mute', say('mute')),
    }),
    one({
      id: 'solo',
      title: say('soloThePickedStrips'),
      keys: 'S',
      group: 'Strips',
      run: () => strips.toggle('solo', say('solo')),
    }),
    one({
      id: 'soloSafe',
      title: say('makePickedStripsSoloSafe'),
      keys: 'Shift+S',
      group: 'Strips',
      run: () => strips.toggle('soloSafe', say('soloSafe')),
    }),
    one({
      id: 'dry',
      title: say('switchDryPathPickedStrips'),
      keys: 'D',
      group: 'Strips',
      run: strips.dryPath,
    }),
    one({
      id: 'hide',
      title: say('hideThePickedStrips'),
      keys: 'H',
      group: 'Strips',
      run: () => {
        strips.toggle('hidden', say('hide'));
        pick.none();
      },
    }),
    {
      id: 'show',
      title: say('showAllHiddenStrips'),
      keys: 'Shift+H',
      group: 'Strips',
      enabled: () => strips.hidden().length > 0,
      run: strips.showHidden,
    },
    one({
      id: 'remove',
      title: say('removeThePickedStrips'),
      keys: 'Shift+Delete',
      group: 'Strips',
      run: strips.removePicked,
    }),
    one({
      id: 'sends',
      title: say('sendsPickedStrips'),
      keys: 'Shift+X',
      group: 'Strips',
      run: ask('sends', say('send')),
    }),
    {
      id: 'feeds',
      title: say('whatFeedsPicked'),
      keys: 'Alt+X',
      group: 'Strips',
      run() {
        if (targets().some((id) => session.strip(id)?.kind !== 'source')) ask('feeds', null)();
        else notices.refused(say('pickWhatIsFed'));
      },
    },
    {
      id: 'returnAs',
      title: say('newReturnEffectTapLevel'),
      keys: 'Shift+R',
      group: 'Strips',
      run: ask('return', null),
    },
    one({
      id: 'renameMany',
      title: say('renamePickedStripsPattern'),
      keys: 'Shift+N',
      group: 'Strips',
      run: ask('rename', say('rename')),
    }),
    {
      id: 'tidy',
      title: say('tidyFamiliesOrderColoursPairs'),
      keys: 'Shift+O',
      group: 'Strips',
      run: () => dialogs.show('tidy'),
    },
    one({
      id: 'icon',
      title: say('iconOfPickedStrips'),
      keys: 'J',
      group: 'Strips',
      run: icon,
    }),
    one({
      id: 'saveStems',
      title: say('saveStemsOfPickedStrips'),
      keys: '',
      group: 'Strips',
      run: saveStems,
    }),
    one({
      id: 'dissolve',
      title: say('dissolvePickedSubmixIntoFeeders'),
      keys: 'Shift+G',
      group: 'Strips',
      run: strips.dissolvePicked,
    }),
    one({
      id: 'copySettings',
      title: say('copyTheStripsSettings'),
      keys: 'Ctrl+C',
      group: 'Settings',
      run: given.copySettings,
    }),
    one({
      id: 'pasteSettings',
      title: say('pasteSettingsInsertsSendsFader'),
      keys: 'Ctrl+V',
      group: 'Settings',
      run: given.paste,
    }),
    one({
      id: 'pasteParts',
      title: say('pasteSettingsPartsChosen'),
      keys: 'Ctrl+Shift+V',
      group: 'Settings',
      run: given.openPaste,
    }),
    {
      id: 'presets',
      title: say('presetsPickedStrips'),
      keys: 'P',
      group: 'Settings',
      run: presets,
    },
    one({ id: 'link', title: say('linkThePickedStrips'), keys: 'K', group: 'Settings', run: link }),
    one({
      id: 'resetStrips',
      title: say('returnPickedStripsTheirDefaults'),
      keys: '',
      group: 'Settings',
      run: given.reset,
    }),
    { id: 'output', title: say('newOutput'), keys: '', group: 'Strips', run: strips.addOutput },
    {
      id: 'hear',
      title: say('hearThePickedOutput'),
      keys: '',
      group: 'Strips',
      enabled: () => output() !== undefined,
      run: () => output() !== undefined && menus.hear(output()!),
    },
    one({
      id: 'left',
      title: say('movePickedStripsLeft'),
      keys: 'Alt+ArrowLeft',
      group: 'Strips',
      run: () => strips.shift(-1),
    }),
    one({
      id: 'right',
      title: say('movePickedStripsRight'),
      keys: 'Alt+ArrowRight',
      group: 'Strips',
      run: () => strips.shift(1),
    }),
    one({
      id: 'pickFamily',
      title: say('pickTheWholeFamily'),
      keys: 'Shift+F',
      group: 'Strips',
      run: () => strips.pickBy('family'),
    }),
    one({
      id: 'pickKind',
      title: say('pickAllKind'),
      keys: 'Shift+K',
      group: 'Strips',
      run: () => strips.pickBy('kind'),
    }),
    one({
      id: 'pickColour',
      title: say('pickAllColour'),
      keys: 'Shift+C',
      group: 'Strips',
      run: () => strips.pickBy('colour'),
    }),
    one({
      id: 'pickFeeds',
      title: say('pickEverythingFeeds'),
      keys: 'Shift+E',
      group: 'Strips',
      run: () => strips.pickBy('feeds'),
    }),
    { id: 'all', title: say('pickAllStrips'), keys: 'Ctrl+A', group: 'Strips', run: () => pick.all() },
    { id: 'nopick', title: say('pickNone'), keys: 'Escape', group: 'Strips', run: () => pick.none() },
    {
      id: 'placeAfter',
      title: say('newSubmixesStandAfterLast'),
      keys: '',
      group: 'Strips',
      enabled: () => settings.placement !== 'after',
      run: () => (settings.placement = 'after'),
    },
    {
      id: 'placeEnd',
      title: say('newSubmixesStandEnd'),
      keys: '',
      group: 'Strips',
      enabled: () => settings.placement !== 'end',
      run: () => (settings.placement = 'end'),
    },
  ];
}
