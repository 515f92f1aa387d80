import { Temporal } from 'temporal-polyfill';

export const dayMs = 86_400_000;

/** The day of a moment in a zone, `2026-10-12`. */
export const dayOf = (zone: string, at: number): string =>
  Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(zone).toPlainDate().toString();

/** The month of a moment in a zone, `2026-10`. */
export const monthOf = (zone: string, at: number): string => dayOf(zone, at).slice(0, 7);
