import type { Call } from './routes.ts';
import type { Sessions } from '../services/sessions.ts';

const HEARTBEAT_MS = 15_000;

/** An open stream of server-sent events. */
export interface Stream {
  /** Sends a message, unless the line is gone. */
  readonly send: (message: unknown) => void;
  /** Called once when the line is gone. */
  readonly onEnd: (work: () => void) => void;
}

/**
 * Answers a call with server-sent events until the browser hangs up or the caller may not any more: that is looked at when
 * sessions end, when roles change, and at every heartbeat. A line that fails ends, and nothing else.
 */
export function openStream({ request, response, caller, stillMay }: Call, sessions: Sessions): Stream {
  response.set({ 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' });
  response.flushHeaders();
  const endings: (() => void)[] = [];
  let open = true;
  const end = (): void => {
    if (!open) return;
    open = false;
    clearInterval(beat);
    for (const work of endings) work();
    response.end();
  };
  const write = (text: string): void => {
    if (open) response.write(text);
  };
  const check = (): void => {
    if (sessions.ending) return end();
    stillMay().then((may) => {
      if (!may) end();
    }, end);
  };
  const beat = setInterval(() => {
    write(': here\n\n');
    check();
  }, HEARTBEAT_MS);
  request.on('close', end);
  response.on('error', end);
  if (caller) endings.push(sessions.onEnd(caller, check));
  return { send: (message) => write(`data: ${JSON.stringify(message)}\n\n`), onEnd: (work) => endings.push(work) };
}
