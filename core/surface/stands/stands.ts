import type { SurfaceProfile } from '../profile/profile';
import { simulatedDesk, simulatedFaders } from './motorFaders';
import { simulatedEncoders } from './wideEncoders';

/** The devices that the program brings itself: all simulated, and speaking bytes as real ones would. */
export const standIns: readonly SurfaceProfile[] = [simulatedDesk, simulatedFaders, simulatedEncoders];
