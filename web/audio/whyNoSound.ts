import { say } from './texts';

/** Why the page has no shared memory: it came by a line that is not safe, and where a safe one is. */
export async function whyNoSound(): Promise<string> {
  if (globalThis.isSecureContext) return say('pageNotIsolatedSoHas');
  const { https } = (await fetch('/api/access')
    .then((answer) => answer.json())
    .catch(() => ({}))) as { https?: readonly string[] };
  return https?.[0] ? say('playsByHttpsAt', { address: https[0] }) : say('playsByHttps');
}
