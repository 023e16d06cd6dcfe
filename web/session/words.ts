import type { StripKind, Tap } from '@core/session/types';
import { say } from './texts';

/** What a kind of strip is called inside a sentence. */
export const kindWord = (kind: StripKind): string =>
  ({ source: say('source'), submix: say('submix'), return: say('return'), output: say('output') })[kind];
/** What the tap of a send is called inside a sentence. */
export const tapWord = (tap: Tap): string =>
  ({ post: say('postFader'), pre: say('preFader'), input: say('inputTap') })[tap];
