import { useRouter } from 'vue-router';
import { processorOf } from '@core/processors/registry';
import type { InsertRef } from '@core/operations/inserts';
import { METER_SCALES } from '@core/metering/scales';
import { useTransport } from '@/audio/transport';
import { lazy, views, type Action, type Feature } from '@/commands/feature';
import { keyScope } from '@/commands/keyScopes';
import { useInspector } from '@/commands/inspector';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { useTargets } from '@/session/targets';
import { useKept } from './kept';
import MeterTray from './MeterTray.vue';
import { say } from './texts';

function meterActions(): readonly Action[] {
  const kept = useKept();
  const pick = usePick();
  const session = useSession();
  const settings = useSettings();
  const inspector = useInspector();
  const transport = useTransport();
  const router = useRouter();
  const { targets, some, none } = useTargets();
  /** Whether an insert takes something away that can be shown. */
  const turnsDown = (at: InsertRef | null) => {
    const insert = at && session.strip(at.strip)?.inserts.find((i) => i.id === at.id);
    return insert ? processorOf(insert.type).levelDependent : false;
  };
  return [
    {
      id: 'keepMeters',
      title: say('keepPickedMetersView'),
      keys: 'Y',
      group: 'View',
      enabled: some,
      run(given) {
        const strips = given?.strips ?? targets();
        if (!strips.length) return none(say('keepInView'));
        kept.toggle(strips.map((strip) => ({ strip })));
      },
    },
    {
      id: 'keepReduction',
      title: say('keepReductionOfOpenProcessor'),
      keys: 'Shift+I',
      group: 'View',
      enabled: () => turnsDown(pick.insert),
      run(given) {
        const refs = given?.refs ?? (pick.insert ? [pick.insert] : []);
        kept.toggle(refs.map(({ strip, id }) => ({ strip, insert: id })));
      },
    },
    {
      id: 'dropMeters',
      title: say('emptyTheTray'),
      keys: 'Alt+Y',
      group: 'View',
      enabled: () => kept.shown.length > 0,
      run: kept.empty,
    },
    {
      id: 'meters',
      title: say('metersOfPickedStrip'),
      keys: 'E',
      group: 'Answers',
      run() {
        if (!pick.picked.length && pick.focus) pick.only(pick.focus.strip);
        inspector.show(inspector.tab === 'meters' && inspector.open ? 'strip' : 'meters');
        const here = views().find((v) => v.name === router.currentRoute.value.name);
        if (!here?.around?.includes('inspector')) void router.push({ name: 'sheet' });
      },
    },
    {
      id: 'mono',
      title: say('hearInMonoOrAsIs'),
      keys: 'Shift+M',
      group: 'Transport',
      run: () => (transport.mono = !transport.mono),
    },
    {
      id: 'measureAnew',
      title: say('measureLoudnessAnew'),
      keys: 'Shift+L',
      group: 'Transport',
      run: () => {
        transport.player?.live.restart();
        transport.player?.clearPeaks();
      },
    },
    {
      id: 'nextScale',
      title: say('nextMeterScale'),
      keys: '',
      group: 'View',
      run() {
        const at = METER_SCALES.findIndex((s) => s.id === settings.meterScale);
        settings.meterScale = METER_SCALES[(at + 1) % METER_SCALES.length]!.id;
      },
    },
  ];
}

/** Meters: all that is measured of a strip while it plays, and a tray of those that stay in view. */
export const meters: Feature = {
  actions: meterActions,
  panels: [{ tab: 'meters', component: lazy(() => import('./MeterPanel.vue')) }],
  trays: [MeterTray],
  keys: () => [
    keyScope('kept', say('onAKeptMeter'), {
      open: [say('pickWhatItMeasures'), 'Enter'],
      drop: [say('takeItOutOfView'), 'Delete'],
      left: [say('theOneBefore'), 'ArrowLeft'],
      right: [say('theNextOne'), 'ArrowRight'],
    }),
  ],
};
