import { hostname, networkInterfaces } from 'node:os';

/**
 * Who the server may be called by. A page of another site can have its own name point at this machine; requests that arrive by
 * such a name are answered with 421. What the server listens on counts, and the names in MAVREK_HOSTS, for a proxy.
 */
export interface Hosts {
  /** Whether a Host header names this server. */
  known(host: string | undefined): boolean;
  /** Whether an Origin header is one of this server's own. */
  ownOrigin(origin: string): boolean;
}

/**
 * @param listensOn what HOST says: a name or an address, `0.0.0.0` or `::` for all
 * @param port the port listened on
 * @param more MAVREK_HOSTS: names, with a port or without, divided by commas or blanks
 * @param addresses the machine's own addresses, for tests
 */
export function hostsOf(
  listensOn: string,
  port: number,
  more = '',
  addresses: () => string[] = ownAddresses,
): Hosts {
  const named = more
    .split(/[\s,]+/)
    .filter(Boolean)
    .flatMap((entry) => parse(entry) ?? []);
  const loopback = ['localhost', '127.0.0.1', '[::1]'];
  const plain = bracketed(listensOn.toLowerCase());
  const everywhere = listensOn === '0.0.0.0' || listensOn === '::';
  const own = (name: string): boolean =>
    loopback.includes(name)
      ? everywhere || loopback.includes(plain)
      : everywhere
        ? addresses().includes(name)
        : name === plain;
  const known = (host: string | undefined): boolean => {
    const asked = host === undefined ? undefined : parse(host);
    if (!asked) return false;
    if (named.some((one) => one.name === asked.name && (one.port === undefined || one.port === asked.port)))
      return true;
    return (asked.port ?? 80) === port && own(asked.name);
  };
  return {
    known,
    ownOrigin: (origin) => URL.canParse(origin) && /^https?:/.test(origin) && known(new URL(origin).host),
  };
}

const bracketed = (name: string): string =>
  name.includes(':') && !name.startsWith('[') ? `[${name}]` : name;

/** `name`, `name:port`, `[::1]:port`; undefined for anything else. A dot at the end says the same. */
function parse(host: string): { name: string; port: number | undefined } | undefined {
  const match = /^(\[[0-9a-f:.]{2,45}\]|[a-z0-9._-]{1,253})(?::(\d{1,5}))?$/i.exec(host);
  if (!match?.[1]) return undefined;
  return {
    name: match[1].toLowerCase().replace(/\.$/, ''),
    port: match[2] === undefined ? undefined : Number(match[2]),
  };
}

function ownAddresses(): string[] {
  const all = Object.values(networkInterfaces()).flatMap((list) => list ?? []);
  return [hostname().toLowerCase(), ...all.map((one) => bracketed(one.address.toLowerCase()))];
}
