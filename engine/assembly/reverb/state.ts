// How a reverb keeps what it knows: numbers of a geometry, and places in its state.
export const LINES: usize = 16;
export const DIFFUSERS: usize = 8;
export const TAPS: usize = 20;
/** Numbers of a geometry, and bytes that it takes. */
export const NUMBERS: usize = 105;
export const GEOMETRY: usize = 432;
// Where they stand in it, in bytes.
export const G_LINES: usize = 4, G_DIFFUSERS: usize = 68, G_TAPS: usize = 100, G_GAINS: usize = 260;

// State: what a zeroed one says is that it sleeps.
export const S_POSITION: usize = 0, S_AWAKE: usize = 4, S_LEFT: usize = 8, S_QUIET: usize = 12;
export const S_LOW: usize = 16, S_HIGH: usize = 20, S_LEVEL: usize = 24, S_DUCKED: usize = 28;
export const S_CUTS: usize = 32, S_PHASES: usize = 64, S_TOP: usize = 128, S_BASS: usize = 192, S_GAIN: usize = 256;
export const S_NEW: usize = 320, S_OLD: usize = S_NEW + GEOMETRY;
export const S_RINGS: usize = S_OLD + GEOMETRY;
