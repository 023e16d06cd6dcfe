/** Bounds of what a document may say. The published JSON Schema (docs/session.schema.json) says the same; a test holds both together. */
export const LIMITS = {
  name: 200,
  strips: 1000,
  sends: 200,
  inserts: 64,
  vcas: 200,
  links: 200,
  sections: 1000,
  /** Points of one automation lane. */
  points: 100_000,
  longest: 86400,
  lowestDb: -200,
  trimTop: 48,
  /** Channels of the device that outputs leave by. */
  channels: 64,
  dismissed: 2000,
  /** Strips kept at the edges of the control surfaces, and orders in which strips lie on them. */
  pins: 200,
  layouts: 100,
} as const;
