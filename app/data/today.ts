import { calendarDay, dayName } from '#core/hop';
import { ownZone } from '../theme/formats.ts';

/** Today in the person's zone, `2026-11-24`. */
export const today = (): string => dayName(calendarDay(ownZone, Date.now()));
/** The day of a moment in the person's zone. */
export const dayAt = (at: number): string => dayName(calendarDay(ownZone, at));
