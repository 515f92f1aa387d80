/**
 * A signal that stops after so many milliseconds, or as soon as another one does; its reason is an error with a plain
 * sentence. (What `AbortSignal.any` makes of two timeouts, Node 20 may collect as garbage before they are over.)
 */
export const stopsAfter = (ms: number, because: string, other?: AbortSignal): AbortSignal => {
  const stop = new AbortController();
  const timer = setTimeout(() => stop.abort(new Error(because)), ms);
  timer.unref();
  const follow = () => {
    clearTimeout(timer);
    stop.abort(other?.reason);
  };
  if (other?.aborted) follow();
  else other?.addEventListener('abort', follow, { once: true });
  return stop.signal;
};
