import type { IncomingMessage } from 'node:http';
import { hostname } from 'node:os';

const LOOPBACK = ['127.0.0.1', 'localhost', '[::1]'];

/** An address as it stands in a URL: in brackets where it is of IPv6, without the mark of one that was mapped. */
function inUrl(address: string): string {
  const plain = address.replace(/^::ffff:/i, '').replace(/%.*$/, '');
  return plain.includes(':') ? `[${plain}]` : plain;
}
const isLoopback = (address: string) => address === '[::1]' || /^127\./.test(address);

/** A name as it is compared: names of hosts know no capitals (RFC 9110, 4.2.3), and may end in a dot. */
const nameIn = (host: string) => host.toLowerCase().replace(/:\d+$/, '').replace(/\.$/, '');

/** Names under which this machine may be spoken to beside its addresses: its own, and those that were given. */
export const namesOf = (given: readonly string[] = []): readonly string[] => [
  ...new Set([hostname(), `${hostname()}.local`, ...given].map(nameIn)),
];

/**
 * Whether a request speaks to this machine by a name that is its own where the request arrived. A page of a stranger whose name
 * leads here names itself (DNS rebinding), and is refused; the loopback's names are those of who sits at the machine, so that
 * nobody else may use them.
 * @param names accepted beside addresses; none where the server listens on loopback alone
 */
export function rightHost(
  host: string | undefined,
  localAddress: string | undefined,
  names: readonly string[],
): boolean {
  if (!host || !localAddress) return false;
  const name = nameIn(host);
  const local = inUrl(localAddress);
  if (isLoopback(local) && (LOOPBACK.includes(name) || name === local)) return true;
  return !isLoopback(local) && (name === local || names.includes(name));
}

/** Whether a request comes from this server's own pages, or from no page at all. */
export function ownRequest(req: IncomingMessage, names: readonly string[]): boolean {
  const { host, origin } = req.headers;
  if (!rightHost(host, req.socket.localAddress, names)) return false;
  const from = origin?.toLowerCase();
  return (
    from === undefined ||
    from === `http://${host!.toLowerCase()}` ||
    from === `https://${host!.toLowerCase()}`
  );
}
