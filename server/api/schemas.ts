import Joi from '../../core/session/fields/joi';
import type { CommitRequest } from '../sessions/commit';

// What requests hold: routes are judged by these, and described by them.

export const createSchema = Joi.object<{ name: string; sampleRate: number }>({
  name: Joi.string().trim().min(1).max(200).required(),
  sampleRate: Joi.number().valid(44100, 48000, 88200, 96000).default(48000),
});
export const commitSchema = Joi.object<CommitRequest>({
  revision: Joi.number().integer().min(0).required(),
  changeId: Joi.string().guid().required(),
  kind: Joi.string().valid('edit', 'undo', 'redo').default('edit'),
  label: Joi.string().max(300).required(),
  /** The edit that an undo takes back, or a redo does again; the last one when left out. */
  of: Joi.string().guid().allow(null).default(null),
  commands: Joi.when('kind', { is: 'edit', then: Joi.array().required(), otherwise: Joi.any().strip() }),
});
export const stemQuery = Joi.object<{ name: string; rate: number; upload?: string; cut: boolean }>({
  name: Joi.string().max(300).required(),
  rate: Joi.number().integer().min(8000).max(192000).required(),
  /** A resumable upload that has come in; without it the file is the request's body. */
  upload: Joi.string().guid(),
  /** Whether a file that is cut off is taken as far as it goes. */
  cut: Joi.boolean().default(false),
});
const stemAddress = Joi.string().pattern(/^sha256:[0-9a-f]{64}$/);
/** Most stems that are asked for at once: more than a file can hold. */
const MOST_KNOWN = 256;
export const knownSchema = Joi.object<{ stems: string[] }>({
  stems: Joi.array().items(stemAddress.required()).min(1).max(MOST_KNOWN).required(),
});
export const uploadQuery = Joi.object<{ upload?: string }>({ upload: Joi.string().guid() });
export const pcmQuery = Joi.object<{ start: number; frames: number }>({
  start: Joi.number().integer().min(0).default(0),
  frames: Joi.number()
    .integer()
    .min(1)
    .max(1 << 20)
    .default(65536),
});
/** What a stem's file is called, without its ending. */
export const fileQuery = Joi.object<{ name: string }>({ name: Joi.string().max(200).default('stem') });
/** Slices that one question may ask for, and frames of each. */
const MOST_SLICES = 512;
const MOST_SLICE_FRAMES = 65536;
export const slicesSchema = Joi.object<{
  slices: { stem: string; start: number; frames: number }[];
}>({
  slices: Joi.array()
    .items(
      Joi.object({
        stem: stemAddress.required(),
        start: Joi.number()
          .integer()
          .min(0)
          .max(2 ** 31 - 1)
          .required(),
        frames: Joi.number().integer().min(1).max(MOST_SLICE_FRAMES).required(),
      }),
    )
    .min(1)
    .max(MOST_SLICES)
    .required(),
});
export const usesQuery = Joi.object<{ hours: number }>({
  hours: Joi.number().integer().min(1).max(168).default(12),
});
export const afterQuery = Joi.object<{ after: number }>({ after: Joi.number().integer().min(0).default(0) });
