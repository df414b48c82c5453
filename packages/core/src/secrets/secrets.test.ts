import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { blankConfig } from '../config/sections.ts';
import { checkSnippetTemplate } from '../dialects/linux/snippets.ts';
import { hideSaid, replaceSecretWords, secretWords, veilSecrets } from '../dialects/linux/secretWords.ts';
import { guardText } from '../dialects/linux/textGuard.ts';
import { linux } from '../dialects/linux/linux.ts';
import { emptyIntent, type FabricIntent, type Snippet } from '../intent/intent.ts';
import { applyEdit } from '../intent/edits/index.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import { fillMasks, isMask, maskOf, masksIn } from './secretRef.ts';

const digest = fc
  .array(fc.constantFrom(...'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_'), {
    minLength: 22,
    maxLength: 22,
  })
  .map((l) => l.join(''));
const value = fc.stringMatching(/^[\x21-\x7e]{1,40}$/).filter((v) => !v.includes('sealed:'));
const secretLine = fc.constantFrom(
  'neighbor 10.0.0.1 password ',
  ' neighbor FABRIC password ',
  ' ip ospf message-digest-key 1 md5 ',
  'password ',
  'enable password ',
  ' key-string ',
  'snmp-server community ',
);
const plainLine = fc.constantFrom(
  '!',
  'router bgp 65001',
  ' neighbor 10.0.0.1 remote-as 65002',
  'hostname sk-leaf-1',
  '',
);

describe('promise 12: secrets in texts', () => {
  test('masked and filled in again, every text is what it was; nothing of a value is left in the masked one', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(
            plainLine,
            fc.tuple(secretLine, value).map(([l, v]) => l + v),
          ),
          { minLength: 1, maxLength: 12 },
        ),
        fc.array(digest, { minLength: 20, maxLength: 20 }),
        (lines, digests) => {
          const files = { 'frr.conf': lines.join('\n') };
          const words = [...new Set(secretWords('frr.conf', files['frr.conf']).map((s) => s.word))];
          fc.pre(new Set(digests).size === digests.length);
          const of = new Map(words.map((w, i) => [w, digests[i]!]));
          const masked = replaceSecretWords(files, (w) => maskOf(of.get(w)!));
          expect(masksIn(masked).sort()).toEqual([...of.values()].sort());
          expect(guardText('frr.conf', masked['frr.conf']!).filter((l) => l.kind.startsWith('secret'))).toEqual([]);
          for (const s of secretWords('frr.conf', masked['frr.conf']!)) expect(isMask(s.word)).toBe(true);
          const back = new Map([...of].map(([w, d]) => [d, w]));
          expect(fillMasks(masked, (d) => back.get(d)!)).toEqual(files);
          expect(veilSecrets(masked)).toEqual(masked);
        },
      ),
    );
  });

  test.each([
    ['neighbor 10.0.0.1 password hush', 'secret in plain'],
    [`neighbor 10.0.0.1 password sealed:${'a'.repeat(21)}`, 'secret in plain'],
    [`! sealed:${'a'.repeat(22)}`, 'secret misplaced'],
    [`neighbor sealed:${'a'.repeat(22)} password sealed:${'b'.repeat(22)}`, 'secret misplaced'],
    [`banner motd line sealed:${'a'.repeat(22)}`, 'secret misplaced'],
  ])('a line is refused where a secret stands in plain, or where it would be shown: %s', (line, kind) => {
    expect(guardText('frr.conf', line).map((l) => l.kind)).toContain(kind);
  });

  test('what a switch says of a line does not repeat its secret, whatever stands around it', () => {
    fc.assert(
      fc.property(secretLine, value, fc.string(), fc.string(), (line, word, before, after) => {
        fc.pre(!before.includes(word) && !after.includes(word) && !line.includes(word) && !'…sealed'.includes(word));
        expect(hideSaid(`${before} line 7: ${line}${word} ${after}`)).not.toContain(` ${word} `);
      }),
    );
    expect(hideSaid('line 3: neighbor p1 password hush: refused')).toBe('line 3: neighbor p1 password … refused');
  });

  const snippet = (text: string): Snippet => ({ name: 'word', file: 'frr.conf', on: 'all', text });
  test('a snippet writes secrets of its fabric by name, and no other', () => {
    const secrets = [{ name: 'spine-bgp', digest: 'a'.repeat(22) }];
    const config = blankConfig('sk-leaf-1');
    const said = (text: string): string | undefined => checkSnippetTemplate(snippet(text), config, secrets)?.rule;
    expect(said('neighbor FABRIC password {{ secrets.spine-bgp }}')).toBeUndefined();
    expect(said("neighbor FABRIC password {{ secrets['spine-bgp'] }}")).toBeUndefined();
    expect(said(`neighbor FABRIC password sealed:${'b'.repeat(22)}`)).toBe('secret-known');
    expect(said('neighbor FABRIC password {{ secrets.other }}')).toBeDefined();
    expect(said('description {{ secrets.spine-bgp }}')).toBe('secret-misplaced');
    expect(said('neighbor FABRIC password {{ secrets.spine-bgp | slice: 0, 20 }}')).toBe('secret-in-plain');
  });

  test('a secret that a snippet writes stays; another value is another edit', () => {
    const secret = { name: 'spine-bgp', digest: 'a'.repeat(22) };
    const run = (intent: FabricIntent, ...edits: Parameters<typeof applyEdit>[1][]) =>
      edits.reduce((last, e) => applyEdit(last.intent, e), { intent, findings: [] } as ReturnType<typeof applyEdit>);
    const used = run(
      emptyIntent('skerry', 'sk'),
      { kind: 'putSecret', secret },
      { kind: 'putSnippet', snippet: snippet('neighbor FABRIC password {{ secrets.spine-bgp }}') },
    ).intent;
    expect(run(used, { kind: 'removeSecret', name: 'spine-bgp' }).findings[0]).toMatchObject({ rule: 'secret-in-use' });
    expect(run(used, { kind: 'removeSecret', name: 'spine' }).findings).toHaveLength(1);
    const next = run(used, { kind: 'putSecret', secret: { ...secret, digest: 'b'.repeat(22) } }).intent;
    expect(next.secrets).toEqual([{ ...secret, digest: 'b'.repeat(22) }]);
    expect(
      run(used, { kind: 'removeSnippet', name: 'word' }, { kind: 'removeSecret', name: 'spine-bgp' }).intent.secrets,
    ).toEqual([]);
  });
});

describe('a BGP password in the network model', () => {
  const side = (host: string, own: number, far: string, password: string) => ({
    host,
    ...linux.parse({
      interfaces: `auto p1\niface p1\n  address ${host === 'a' ? '10.1.1.0' : '10.1.1.1'}/31\n`,
      'frr.conf': `router bgp ${own}\n neighbor ${far} remote-as external\n${password}`,
    }),
  });
  const word = (far: string, d: string) => ` neighbor ${far} password ${maskOf(d.repeat(22))}\n`;
  test.each([
    ['', '', [null, null]],
    ['x', 'x', [null, null]],
    ['x', 'y', ['another password than on b', 'another password than on a']],
    ['x', '', ['a password here, none on b', 'a password on a, none here']],
  ])('both ends must have the same (RFC 2385): %s and %s', (a, b, reasons) => {
    const network = modelNetwork(
      [
        side('a', 65001, '10.1.1.1', a === '' ? '' : word('10.1.1.1', a)),
        side('b', 65002, '10.1.1.0', b === '' ? '' : word('10.1.1.0', b)),
      ],
      [{ a: { host: 'a', port: 'p1' }, b: { host: 'b', port: 'p1' } }],
    );
    expect(network.sessions.map((s) => s.reason)).toEqual(reasons);
  });
  test('a password in plain words is no line that is understood', () => {
    const { unread } = linux.parse({
      interfaces: '',
      'frr.conf': 'router bgp 65001\n neighbor 10.1.1.1 remote-as 65002\n neighbor 10.1.1.1 password hush\n',
    });
    expect(unread.map((u) => u.why)).toEqual(['the password stands here in plain words']);
  });
});
