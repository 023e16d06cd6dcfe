/**
 * A profile of version 1 as one of version 2: buttons are keys, relative messages are an encoder's coding, and a ring of lights is a
 * thing of its own. What is no profile of version 1 is returned as it is. (Version 1 had no geometry: the page finds places.)
 */
export function fromVersion1(raw: unknown): unknown {
  if (typeof raw !== 'object' || raw === null) return raw;
  const profile = raw as Readonly<Record<string, unknown>>;
  if (profile.format !== 'zonula-surface' || profile.version !== 1 || !Array.isArray(profile.controls))
    return raw;
  return {
    ...profile,
    version: 2,
    controls: (profile.controls as unknown[]).map((c) =>
      typeof c === 'object' && c !== null ? control(c as Record<string, unknown>) : c,
    ),
  };
}

interface Address {
  readonly type?: unknown;
}
const absolute = (a: Address) => (a.type === 'relative' ? { ...a, type: 'control' } : a);

function control(c: Readonly<Record<string, unknown>>): unknown {
  switch (c.kind) {
    case 'encoder': {
      const { out, ...rest } = c;
      const address = (c.in ?? {}) as Address;
      return {
        ...rest,
        in: absolute(address),
        coding: address.type === 'relative' ? 'offset' : 'position',
        ...(out ? { ring: { address: absolute(out as Address) } } : {}),
      };
    }
    case 'button': {
      const { led, ...rest } = c;
      return { ...rest, kind: 'key', ...(led ? { light: { address: absolute(led as Address) } } : {}) };
    }
    case 'display':
      // The display of the page was cell 0.
      return c.shows === 'page' ? { ...c, cell: 0 } : c;
    default:
      return c;
  }
}
