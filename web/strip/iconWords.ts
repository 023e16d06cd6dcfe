import type { IconId } from '@core/naming/iconIds';
import { say } from './texts';

/** What an icon shows. */
export const iconWord = (icon: IconId): string => say(`icon_${icon}`);
