import { texts } from '@/ui/language';
import en from './en.json';

export const say = texts('meters', en);
