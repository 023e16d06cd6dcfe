import type { IncomingMessage, Server } from 'node:http';

/** Seconds for which a request that is not whole may stand still. */
const PATIENCE = 60;

/**
 * Ends requests whose sender has stopped sending. One that comes slowly is let come, however long it takes: what counts is
 * whether bytes arrive.
 */
export function endStalled(http: Server, patience = PATIENCE): void {
  // Node's own bound is on the whole request: at 16 KB/s a file of an hour would be cut.
  http.requestTimeout = 0;
  const under = new Map<IncomingMessage, { bytes: number; since: number }>();
  http.on('request', (req: IncomingMessage) => {
    if (req.complete) return;
    under.set(req, { bytes: req.socket.bytesRead, since: Date.now() });
    const forget = () => under.delete(req);
    req.once('end', forget);
    req.once('close', forget);
  });
  const timer = setInterval(
    () => {
      for (const [req, seen] of under) {
        if (req.complete) under.delete(req);
        else if (req.socket.bytesRead !== seen.bytes) {
          seen.bytes = req.socket.bytesRead;
          seen.since = Date.now();
        } else if (Date.now() - seen.since > patience * 1000) {
          under.delete(req);
          req.socket.destroy();
        }
      }
    },
    Math.min(5000, patience * 250),
  ).unref();
  http.once('close', () => clearInterval(timer));
}
