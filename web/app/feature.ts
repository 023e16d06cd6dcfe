import { useTransport } from '@/audio/transport';
import { useInspector } from '@/commands/inspector';
import { keyScope } from '@/commands/keyScopes';
import type { Action, Feature } from '@/commands/feature';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { say } from './texts';

function pageActions(): readonly Action[] {
  const session = useSession();
  const settings = useSettings();
  const inspector = useInspector();
  const transport = useTransport();
  return [
    { id: 'play', title: say('playOrStop'), keys: 'Space', group: 'Transport', run: transport.toggle },
    {
      id: 'start',
      title: say('goToTheStart'),
      keys: 'Shift+Home',
      group: 'Transport',
      run: () => transport.locate(0),
    },
    {
      id: 'loop',
      title: say('loopSectionPlayhead'),
      keys: 'L',
      group: 'Transport',
      run: transport.toggleLoop,
    },
    {
      id: 'back',
      title: say('goBackASecond'),
      keys: ',',
      group: 'Transport',
      run: () => transport.locate(transport.position - 1),
    },
    {
      id: 'forth',
      title: say('goOnASecond'),
      keys: '.',
      group: 'Transport',
      run: () => transport.locate(transport.position + 1),
    },
    {
      id: 'undo',
      title: say('undoTitle'),
      keys: 'Ctrl+Z',
      group: 'Edit',
      enabled: () => session.undoLabel !== null,
      run: session.undo,
    },
    {
      id: 'redo',
      title: say('redo'),
      keys: 'Ctrl+Shift+Z',
      group: 'Edit',
      enabled: () => session.redoLabel !== null,
      run: session.redo,
    },
    {
      id: 'inspector',
      title: say('openCloseInspector'),
      keys: 'I',
      group: 'View',
      run: inspector.toggle,
    },
    {
      id: 'inspectorRests',
      title: say('inspectorWhilePicked'),
      keys: 'Alt+I',
      group: 'View',
      run: inspector.toggleRest,
    },
    { id: 'theme', title: say('nightOrDay'), keys: '', group: 'View', run: settings.otherTheme },
  ];
}

/** The page around the views: transport, undo, theme. */
export const page: Feature = {
  actions: pageActions,
  keys: () => [
    keyScope('ribbon', say('onTheRibbon'), {
      back: [say('goBackASecond'), 'ArrowLeft'],
      forth: [say('goOnASecond'), 'ArrowRight'],
      start: [say('goToTheStart'), 'Home'],
      end: [say('goToTheEnd'), 'End'],
    }),
    keyScope('slider', say('onASlider'), {
      more: [say('stepUpShiftFiner'), 'ArrowRight', 'ArrowUp', '+', '=', 'Shift+ArrowRight', 'Shift+ArrowUp'],
      less: [
        say('stepDownShiftFiner'),
        'ArrowLeft',
        'ArrowDown',
        '-',
        '_',
        'Shift+ArrowLeft',
        'Shift+ArrowDown',
      ],
      default: [say('backToTheDefault'), 'Backspace'],
      least: [say('toItsLeast'), 'Home'],
      most: [say('toItsMost'), 'End'],
      type: [say('typeAValue'), 'Enter'],
    }),
  ],
};
