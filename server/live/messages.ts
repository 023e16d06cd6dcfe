import Joi from '../../core/session/fields/joi';
import { commandSchema } from '../../core/edits/schema';

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
} as const;
