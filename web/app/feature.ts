import { useTransport } from '@/audio/transport';
import { keyScope } from '@/commands/keyScopes';
import type { Action, Feature } from '@/commands/feature';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';

function pageActions(): readonly Action[] {
  const session = useSession();
  const settings = useSettings();
  const transport = useTransport();
  return [
    { id: 'play', title: 'Play or stop', keys: 'Space', group: 'Transport', run: transport.toggle },
    {
      id: 'start',
      title: 'Go to the start',
      keys: 'Shift+Home',
      group: 'Transport',
      run: () => transport.locate(0),
    },
    {
      id: 'loop',
      title: 'Loop the section at the playhead',
      keys: 'L',
      group: 'Transport',
      run: transport.toggleLoop,
    },
    {
      id: 'back',
      title: 'Go back a second',
      keys: ',',
      group: 'Transport',
      run: () => transport.locate(transport.position - 1),
    },
    {
      id: 'forth',
      title: 'Go on a second',
      keys: '.',
      group: 'Transport',
      run: () => transport.locate(transport.position + 1),
    },
    {
      id: 'undo',
      title: 'Undo',
      keys: 'Ctrl+Z',
      group: 'Edit',
      enabled: () => session.undoLabel !== null,
      run: session.undo,
    },
    {
      id: 'redo',
      title: 'Redo',
      keys: 'Ctrl+Shift+Z',
      group: 'Edit',
      enabled: () => session.redoLabel !== null,
      run: session.redo,
    },
    {
      id: 'inspector',
      title: 'Open or close the inspector',
      keys: 'I',
      group: 'View',
      run: () => (settings.inspector = !settings.inspector),
    },
    { id: 'theme', title: 'Night or day', keys: '', group: 'View', run: settings.otherTheme },
  ];
}

/** The page around the views: transport, undo, theme. */
export const page: Feature = {
  actions: pageActions,
  keys: [
    keyScope('ribbon', 'On the ribbon', {
      back: ['Go back a second', 'ArrowLeft'],
      forth: ['Go on a second', 'ArrowRight'],
      start: ['Go to the start', 'Home'],
      end: ['Go to the end', 'End'],
    }),
    keyScope('slider', 'On a slider', {
      more: [
        'Step up, with Shift finer',
        'ArrowRight',
        'ArrowUp',
        '+',
        '=',
        'Shift+ArrowRight',
        'Shift+ArrowUp',
      ],
      less: [
        'Step down, with Shift finer',
        'ArrowLeft',
        'ArrowDown',
        '-',
        '_',
        'Shift+ArrowLeft',
        'Shift+ArrowDown',
      ],
      default: ['Back to the default', 'Backspace'],
      least: ['To its least', 'Home'],
      most: ['To its most', 'End'],
      type: ['Type a value', 'Enter'],
    }),
  ],
};
