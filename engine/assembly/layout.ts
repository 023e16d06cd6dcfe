// The memory layout that the plan compiler and the engine agree on: core/plan/layout.ts says what each number means.
export const BLOCK: i32 = 128;
export const BLOCK_BYTES: usize = 512;

export const H_OPS: usize = 0;
export const H_PARAMS: usize = 4;
export const H_TARGETS: usize = 8;
export const H_PREVIOUS: usize = 12;
export const H_CURRENT: usize = 16;
export const H_SMOOTHING: usize = 20;
export const H_FAULTS: usize = 24;
export const H_FAULT_OP: usize = 28;
export const H_SAMPLE_RATE: usize = 32;
export const H_PEAK_FALL: usize = 36;
export const H_RMS_SHARE: usize = 40;

export const OP_END: i32 = 0;
export const OP_CLEAR: i32 = 1;
export const OP_MATRIX: i32 = 2;
export const OP_GAIN: i32 = 3;
export const OP_BALANCE: i32 = 4;
export const OP_MIX: i32 = 5;
export const OP_PROCESS: i32 = 6;
export const OP_METER: i32 = 7;
export const OP_LANES: i32 = 8;
export const OP_TAKE: i32 = 9;
export const OP_MIX_FOUR: i32 = 10;

export const METER_BYTES: usize = 16;
export const RING_HEADER_BYTES: usize = 16;
