import Joi from '../../core/session/fields/joi';
import type { OscMessage } from '../../core/wire/osc';
import { commandSchema } from '../../core/edits/schema';

/** Where a window that plays stands. */
export interface Playing {
  readonly rolling: boolean;
  readonly position: number;
  readonly looping: boolean;
  readonly loop: { readonly start: number; readonly end: number } | null;
}
/** What a window asks the one that plays for. */
export interface Asked {
  readonly to: string;
  readonly ask: 'play' | 'stop' | 'loop' | 'locate';
  readonly at?: number;
}
/** What the simulated OSC controller of a window does. */
export interface OscStandInAsked {
  readonly plug?: boolean;
  readonly say?: readonly OscMessage[];
}
const seconds = Joi.number().min(0).max(360_000);

/** What a window may say over the socket: what it is for, and its shape. */
export const WINDOW_MESSAGES = {
  join: {
    about:
      'Has what happens to a session told to this window, and its drags told to the others that joined it.',
    shape: Joi.object<{ session: string }>({ session: Joi.string().guid().required() }).required(),
  },
  live: {
    about:
      'Says where a hand stands: the commands that would be kept if it let go now, or null when it has ended. At most 400 a second are listened to.',
    shape: Joi.object<{ drag: string; commands: unknown }>({
      /** The name of a drag: the same from its press until the hand lets go. */
      drag: Joi.string().max(100).required(),
      /** What the drag stands at; null when it has ended. */
      commands: Joi.array().items(commandSchema).max(500).allow(null).required(),
    }).required(),
  },
  playing: {
    about:
      'Says that this window plays the session, and where it stands: on every change, a few times a second while it rolls, and to whoever joins. Others that play nothing show it, and ask it by `transport`.',
    shape: Joi.object<Playing>({
      rolling: Joi.boolean().required(),
      /** Seconds of the song. */
      position: Joi.number().min(0).max(360_000).required(),
      looping: Joi.boolean().required(),
      loop: Joi.object({ start: seconds.required(), end: seconds.required() }).allow(null).required(),
    }).required(),
  },
  transport: {
    about:
      'Asks the window that plays to play, to stop, to loop or not, or to go to a place. It is passed to that window alone; where it has gone, the answer is `{ "ok": false }`.',
    shape: Joi.object<Asked>({
      to: Joi.string().max(100).required(),
      ask: Joi.string().valid('play', 'stop', 'loop', 'locate').required(),
      at: seconds.when('ask', { is: 'locate', then: Joi.required(), otherwise: Joi.forbidden() }),
    }).required(),
  },
  oscStandIn: {
    about:
      'Plugs in a simulated OSC controller of this window, pulls it out, or has it say something: it sends a real packet to the port that OSC listens on. What it is told comes as `oscStandIn`.',
    shape: Joi.object<OscStandInAsked>({
      plug: Joi.boolean(),
      say: Joi.array()
        .max(64)
        .items(
          Joi.object({
            address: Joi.string()
              .pattern(/^\/[\x21-\x7e]*$/)
              .max(400)
              .required(),
            args: Joi.array()
              .max(8)
              .items(Joi.number().unsafe(), Joi.string().allow('').max(200), Joi.boolean(), null)
              .required(),
          }),
        ),
    })
      .xor('plug', 'say')
      .required(),
  },
} as const;
