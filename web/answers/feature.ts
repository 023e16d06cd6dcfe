import { useRouter } from 'vue-router';
import { lazy, views, type Action, type Feature } from '@/commands/feature';
import { useInspector } from '@/commands/inspector';
import { usePick } from '@/session/pick';
import { useTargets } from '@/session/targets';
import { useAnswers } from './answers';
import { say } from './texts';

function answerActions(): readonly Action[] {
  const pick = usePick();
  const router = useRouter();
  const inspector = useInspector();
  const answers = useAnswers();
  const { some } = useTargets();

  /** Goes where the inspector is, if this view has none. */
  function toInspector() {
    const here = views().find((v) => v.name === router.currentRoute.value.name);
    if (!here?.around?.includes('inspector')) void router.push({ name: 'sheet' });
  }
  /** Opens an answer about the picked strip; asked again, it gives way to the strip. */
  function ask(tab: 'trace' | 'ripple') {
    if (!pick.picked.length && pick.focus) pick.only(pick.focus.strip);
    inspector.show(inspector.tab === tab ? 'strip' : tab);
    toInspector();
  }
  return [
    {
      id: 'trace',
      title: say('tracePickedStripOutput'),
      keys: 'T',
      group: 'Answers',
      enabled: some,
      run: () => ask('trace'),
    },
    {
      id: 'silent',
      title: say('whyPickedStripSilent'),
      keys: 'Shift+T',
      group: 'Answers',
      enabled: some,
      run: () => ask('trace'),
    },
    {
      id: 'ripple',
      title: say('elseChangesWhenPickedStrip'),
      keys: 'W',
      group: 'Answers',
      enabled: some,
      run: () => ask('ripple'),
    },
    {
      id: 'load',
      title: say('whatEachProcessorCosts'),
      keys: '',
      group: 'Answers',
      run: () => {
        inspector.show('load');
        toInspector();
      },
    },
    {
      id: 'vcaEffect',
      title: say('whatAVcaChanges'),
      keys: '',
      group: 'Answers',
      inner: true,
      run: (given) => {
        inspector.show('ripple');
        answers.askVca(given!.vca!);
        toInspector();
      },
    },
  ];
}

/** Answers about the picked strip and the session: where a signal goes, what moves with it, what it costs. */
export const answers: Feature = {
  actions: answerActions,
  panels: [
    { tab: 'trace', component: lazy(() => import('./TracePanel.vue')) },
    { tab: 'ripple', component: lazy(() => import('./RipplePanel.vue')) },
    { tab: 'load', component: lazy(() => import('./load/LoadPanel.vue')) },
  ],
};
