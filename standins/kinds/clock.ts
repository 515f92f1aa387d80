import { offsetIn } from '#core/hop';

/** What a clock of a zone shows at a moment (milliseconds since 1970 UTC), each part with two digits where it has them. */
export const clockOf = (zone: string, at: number) => {
  const local = new Date(at + offsetIn(zone, at)).toISOString();
  return {
    year: local.slice(0, 4),
    month: local.slice(5, 7),
    day: local.slice(8, 10),
    hour: local.slice(11, 13),
    minute: local.slice(14, 16),
    second: local.slice(17, 19),
  };
};

/** Groups the digits of a whole number by three. */
export const grouped = (whole: string, sign: string): string => whole.replace(/\B(?=(\d{3})+$)/g, sign);
