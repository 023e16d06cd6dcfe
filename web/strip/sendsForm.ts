import { reactive, watch } from 'vue';
import { Refusal } from '@core/base/refusal';
import { levelText, readLevel } from '@core/levels/decibels';
import { readPan } from '@core/levels/pan';
import { NEW_SEND_DB } from '@core/operations/returns';
import type { SendsRequest } from '@core/operations/sends';
import type { Tap } from '@core/session/types';
import { say } from './texts';

/** What is done with sends of many strips, as it is typed. */
export interface SendsForm {
  action: SendsRequest['action'];
  /** Empty where it stays as it is. */
  tap: Tap | '';
  how: 'set' | 'by' | 'keep';
  level: string;
  by: number;
  pan: string;
  switched: '' | 'on' | 'off';
  copyFader: boolean;
  dryOff: boolean;
}

export function useSendsForm() {
  const form = reactive<SendsForm>({
    action: 'add',
    tap: 'post',
    how: 'set',
    level: levelText(NEW_SEND_DB).replace('−', '-'),
    by: -3,
    pan: '',
    switched: '',
    copyFader: false,
    dryOff: false,
  });
  watch(
    () => form.action,
    (now) => {
      form.tap = now === 'add' ? 'post' : '';
      form.how = now === 'add' ? 'set' : 'keep';
    },
  );
  /** @throws Refusal `range` saying what is no level, or no pan */
  function request(to: readonly string[]): SendsRequest {
    const { action, tap, how, by, switched } = form;
    if (action === 'remove') return { action, to, dryOff: false };
    const levelDb = readLevel(form.level);
    if (how === 'set' && levelDb === undefined)
      throw new Refusal('range', say('levelNoLevelTypeDecibels', { level: form.level }));
    const pan = form.pan.trim() === '' ? undefined : readPan(form.pan);
    if (form.pan.trim() !== '' && pan === undefined)
      throw new Refusal('range', say('panNoPanPositionType', { pan: form.pan }));
    return {
      action,
      to,
      ...(tap ? { tap } : {}),
      ...(how === 'set' ? { levelDb: levelDb! } : how === 'by' ? { by } : {}),
      ...(pan === undefined ? {} : { pan }),
      ...(switched ? { on: switched === 'on' } : {}),
      copyFader: form.copyFader && tap !== 'post',
      dryOff: form.dryOff,
    };
  }
  /** What the step is called in the history, and the button that does it. */
  const words = () => ({
    step: { add: say('sends3'), change: say('otherSends'), remove: say('noSends') }[form.action],
    done: { add: say('sendTitle'), change: say('changeTheSends'), remove: say('removeTheSends') }[
      form.action
    ],
  });
  return { form, request, words };
}
