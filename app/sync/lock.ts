/** Only one window or worker of this browser does what has a name; without locks, as on plain http, each does. */
export const lock = <T>(name: string, work: () => Promise<T>): Promise<T> =>
  'locks' in navigator ? navigator.locks.request(name, work) : work();
