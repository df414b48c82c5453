import { describe, expect, test } from 'vitest';
import { ask, withLines } from '../ask/ask.ts';
import { readQuestion } from '../ask/question.ts';
import { linux } from '../dialects/linux/linux.ts';
import { networkFromTexts, skerryTexts, type Texts } from '../testing/skerryFolder.ts';

/** Skerry with some lines of its interfaces changed, asked whether packets of a size come from one server to another and back. */
function reach(words: string, ...changes: readonly (readonly [host: string, from: RegExp, to: string])[]) {
  const texts: Texts = skerryTexts();
  for (const [host, from, to] of changes) {
    const text = texts[host]!.interfaces.replace(from, to);
    expect(text, `${host} ${from}`).not.toBe(texts[host]!.interfaces);
    texts[host]!.interfaces = text;
  }
  const question = readQuestion(`reach ${words}`.split(' '));
  if (typeof question === 'string') throw new Error(question);
  const answer = ask(networkFromTexts(texts), question);
  if (typeof answer === 'string' || answer.ask !== 'reach') throw new Error(JSON.stringify(answer));
  const told = withLines(answer, (host) => ({ dialect: linux, files: texts[host]! }));
  if (told.ask !== 'reach') throw new Error(told.ask);
  const last = told.ways.at(-1)!.hops.at(-1)!.because.at(-1);
  const place = last?.place;
  const line = place && texts[place.host]!.interfaces.split('\n')[place.line - 1]!.trim();
  return { ok: told.ok, unsure: told.unsure, says: last?.words, line };
}
/** One network with two servers behind two leaves, and a server of another network of the same VRF. */
const BRIDGED = 'soundings-101 soundings-201';
const ROUTED = 'tide-105 tide-203';

describe('what fits along a way', () => {
  test('what the network has goes, over the tunnel as well; what is larger by more than a tag does not, and the port says so', () => {
    expect(reach(`${BRIDGED} size 9000`)).toMatchObject({ ok: true, unsure: null });
    expect(reach(`${BRIDGED} size 9005`)).toMatchObject({ ok: false, line: 'mtu 9000' });
    expect(reach(`${BRIDGED} tcp 443 size 9000`)).toMatchObject({ ok: true, unsure: null });
    // A bridge lets four bytes more pass; not every port takes them in.
    expect(reach(`${BRIDGED} size 9003`).unsure).toMatch(/may take in more than it sends|room of a tag/);
  });

  test('around a packet in a tunnel are 50 bytes: a link that has one less stops those that must not be cut', () => {
    const links = (mtu: number) => [
      ['sk-lf-01', /(iface p(?:49|50|51|52)\n.*\n) {4}mtu 9216/g, `$1    mtu ${mtu}`] as const,
    ];
    expect(reach(`${BRIDGED} size 8950`, ...links(9000))).toMatchObject({ ok: true });
    const cut = reach(`${BRIDGED} size 8951`, ...links(9000));
    expect(cut).toMatchObject({ ok: false, unsure: null, line: 'mtu 9000' });
    expect(cut.says).toMatch(/^p49 of sk-lf-01 has MTU 9000: 8951 bytes and 50 around them are too large for it$/);
    // One of four ways that share the load.
    const one = reach(`${BRIDGED} size 8951`, ['sk-lf-01', /(iface p49\n.*\n) {4}mtu 9216/, '$1    mtu 9000']);
    expect(one.unsure).toMatch(/the load is shared, and on one of the ways p49 of sk-lf-01 has MTU 9000/);
    // On the way the tunnel’s packets may be cut.
    const spine = [['sk-sp-01', /mtu 9216/g, 'mtu 9000'] as const];
    expect(reach(`${BRIDGED} size 8951`, ...spine).unsure).not.toBeNull();
    expect(reach(`${BRIDGED} size 8950`, ...spine)).toMatchObject({ ok: true, unsure: null });
  });

  test('a gateway routes no more than its bridge has, whatever it says itself', () => {
    expect(reach(`${ROUTED} size 1500`)).toMatchObject({ ok: true, unsure: null });
    const bare = [['sk-lf-01', /(iface bridge\n(?: .*\n)*?) {4}mtu \d+\n/, '$1'] as const];
    expect(reach(`${ROUTED} size 1500`, ...bare)).toMatchObject({ ok: true, unsure: null });
    const large = reach(`${ROUTED} size 1501`, ...bare);
    expect(large).toMatchObject({ ok: false, unsure: null });
    expect(large.says).toMatch(/of sk-lf-01 has MTU 1500: 1501 bytes are too large for it/);
  });

  test.each([
    ['reach a b size', /a question is/],
    ['reach a b size 67', /68–65535 bytes/],
    ['reach a b size 1500 tcp', /a question is/],
    ['reach a b tcp size 1500', /wants a port/],
  ])('“%s” is not understood, and how one asks is said', (words, why) =>
    expect(readQuestion(words.split(' '))).toMatch(why),
  );
});
