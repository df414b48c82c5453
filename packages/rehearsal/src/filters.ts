import { lagName, type SwitchConfig } from '@anthemion/core';

/** What never is the name of an interface. */
const NOBODY = '"no-such"';
const INGRESS = /(?<![\w-])(?:meta\s+)?iifname\s+(?:(!=|==)\s*)?(\{[^}]*\}|"[^"]*"|[^\s;}]+)/g;

/** A text cut where tables of bridges begin and end. */
function byFamily(text: string): { readonly bridge: boolean; readonly text: string }[] {
  const out: { bridge: boolean; text: string }[] = [];
  let at = 0;
  for (const found of text.matchAll(/^[ \t]*table\s+bridge\b/gm)) {
    if (found.index < at) continue;
    let depth = 0;
    let end = text.indexOf('{', found.index);
    for (; end >= 0 && end < text.length; end++) {
      if (text[end] === '{') depth++;
      if (text[end] === '}' && --depth === 0) break;
    }
    if (end < 0) break;
    out.push(
      { bridge: false, text: text.slice(at, found.index) },
      { bridge: true, text: text.slice(found.index, end + 1) },
    );
    at = end + 1;
  }
  return [...out, { bridge: false, text: text.slice(at) }];
}

/**
 * Filters of a switch as they are loaded in one of its namespaces, where a VRF is one and no device: what comes in is seen
 * as the interface itself there, and on a switch as the VRF. A rewriting, not a proof. LAGs are their first port.
 * @param vrf undefined = what is outside of VRFs
 */
export function filtersFor(text: string, config: SwitchConfig, vrf: string | undefined): string {
  const inVrf = (part: string): string =>
    part
      .replace(INGRESS, (_, mark: string | undefined, values: string) => {
        const words = values.replace(/[{}"]/g, '').split(',');
        const isIt = words
          .map((w) => w.trim())
          .some((w) => (w.endsWith('*') ? vrf!.startsWith(w.slice(0, -1)) : w === vrf));
        return `iifname ${isIt === (mark !== '!=') ? '!= ' : ''}${NOBODY}`;
      })
      .replace(/\bmeta\s+sdifname\b/g, 'iifname');
  const plain = byFamily(text)
    .map((part) => (part.bridge || vrf === undefined ? part.text : inVrf(part.text)))
    .join('');
  return config.lags.reduce(
    (now, lag) => (lag.members[0] === undefined ? now : now.replaceAll(`"${lagName(lag)}"`, `"${lag.members[0]}"`)),
    plain,
  );
}

/** What of filters a namespace for each VRF cannot show. */
export function filtersNotShown({ filters = [], vrfs }: SwitchConfig): string[] {
  const early = filters.some(
    (t) =>
      t.layer !== 'bridge' &&
      t.chains.some(
        (c) =>
          (c.base?.hook === 'prerouting' || c.base?.hook === 'output') &&
          c.rules.some((r) => r.matches.some((m) => m.field === 'in' || m.field === 'out')),
      ),
  );
  const bySet = filters.some((t) =>
    t.chains.some((c) => c.rules.some((r) => r.matches.some((m) => m.field === 'in' && m.set !== undefined))),
  );
  return vrfs.length === 0
    ? []
    : [
        ...(early ? ['filters by interface before a packet is in its VRF, or as it leaves one'] : []),
        ...(bySet ? ['filters by a set of interfaces in VRFs'] : []),
      ];
}

/** Waits for calls to TCP ports and packets to UDP ports, and answers each. */
export const listener = (tcp: readonly number[], udp: readonly number[]): string => `
import socket, selectors
s = selectors.DefaultSelector()
for p in [${tcp.join()}]:
    t = socket.socket(); t.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    t.bind(("", p)); t.listen(64); t.setblocking(False); s.register(t, 1, "t")
for p in [${udp.join()}]:
    u = socket.socket(socket.AF_INET, socket.SOCK_DGRAM); u.bind(("", p)); u.setblocking(False); s.register(u, 1, "u")
print("ready", flush=True)
while True:
    for k, _ in s.select():
        try:
            if k.data == "t":
                c, _ = k.fileobj.accept(); c.send(b"x"); c.close()
            else:
                d, a = k.fileobj.recvfrom(99); k.fileobj.sendto(d, a)
        except OSError:
            pass
`;
/** Calls every address of lines \`tcp|udp PORT ADDRESS WORD\` at once, up to three times, and says the words of those that answer. */
export const caller = (lines: readonly string[]): string => `
import asyncio, socket
async def one(kind, port, host, word):
    loop = asyncio.get_running_loop()
    for _ in range(3):
        u = None
        try:
            if kind == "tcp":
                r, w = await asyncio.wait_for(asyncio.open_connection(host, port), 1.5)
                ok = await asyncio.wait_for(r.read(1), 1.5); w.close()
                if ok: print(word, flush=True); return
            else:
                u = socket.socket(socket.AF_INET, socket.SOCK_DGRAM); u.setblocking(False); u.connect((host, port))
                await loop.sock_sendall(u, b"x")
                await asyncio.wait_for(loop.sock_recv(u, 9), 1.5)
                print(word, flush=True); return
        except (OSError, asyncio.TimeoutError):
            pass
        finally:
            if u: u.close()
async def all():
    await asyncio.gather(*[one(*x) for x in [${lines
      .map((l) => l.split(' '))
      .map(([kind, port, host, word]) => `("${kind}", ${port}, "${host}", "${word}")`)
      .join(', ')}]])
asyncio.run(all())
`;
