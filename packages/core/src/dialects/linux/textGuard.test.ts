import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { skerryEdits, skerryIntent } from '../../demo/skerry.ts';
import { configsOf } from '../../testing/fabricOf.ts';
import { editSchema } from '../../intent/edits/index.ts';
import { validate } from '../../intent/schemas/validate.ts';
import type { SwitchConfig } from '../../config/switchConfig.ts';
import type { Snippet } from '../../intent/intent.ts';
import { linux } from './linux.ts';
import { checkSnippetTemplate } from './snippets.ts';
import { guardFiles, guardText } from './textGuard.ts';

const config = [...configsOf(skerryIntent()).configs.values()].at(-1)!;
const snippet = (text: string, more: Partial<Snippet> = {}): Snippet => ({
  name: 'odd',
  file: 'interfaces',
  on: 'all',
  text,
  ...more,
});

describe('what may not reach a switch', () => {
  test.each([
    ['interfaces', 'auto p1\n% import os\n', 2, 'refused'],
    ['interfaces', '    alias ${7*7}\n', 1, 'refused'],
    ['interfaces', '<%! x %>', 1, 'refused'],
    ['interfaces', 'alias a\rup reboot', 1, 'refused'],
    ['frr.conf', 'hostname a\u0000b', 1, 'refused'],
    ['frr.conf', 'description \u001b[2J', 1, 'refused'],
    ['interfaces', 'iface p1\n    post-up reboot\n', 2, 'runs elsewhere'],
    ['interfaces', 'source /etc/network/more\n', 1, 'runs elsewhere'],
    ['interfaces', 'template /x\n', 1, 'runs elsewhere'],
    ['frr.conf', ' log file /etc/passwd\n', 1, 'runs elsewhere'],
  ])('%s %j: line %i is %s', (file, text, line, kind) => {
    expect(guardText(file, text).map((l) => [l.line, l.kind])).toContainEqual([line, kind]);
  });

  test('nothing the product renders by itself is refused', () => {
    for (const c of configsOf(skerryIntent()).configs.values()) expect(guardFiles(linux.render(c).files)).toEqual([]);
  });

  test.each(['include', 'layout', 'render'])('a template cannot read a file with %s', (tag) => {
    for (const name of ['/etc/hostname', 'package.json', '.anthemion/server/cookie.key'])
      for (const text of [
        `{% ${tag} '${name}' %}`,
        `{% ${tag} "${name}" %}`,
        `{% assign f = '${name}' %}{% ${tag} f %}`,
      ])
        expect(checkSnippetTemplate(snippet(text, { file: 'frr.conf' }), config)).toMatchObject({
          rule: 'snippet-renders',
          message: expect.stringContaining(`"${tag}"`) as string,
        });
    expect(checkSnippetTemplate(snippet('{% block a %}x{% endblock %}'), config)).not.toBeNull();
  });

  test('a template cannot put together what may not be written', () => {
    expect(checkSnippetTemplate(snippet("{{ '$' }}{{ '{1}' }}"), config)).toMatchObject({ rule: 'text-refused' });
    expect(checkSnippetTemplate(snippet("{{ 'po' }}st-up reboot", { runsElsewhere: true }), config)).toBeNull();
    expect(checkSnippetTemplate(snippet("{{ 'po' }}st-up reboot"), config)).toMatchObject({
      rule: 'text-runs-elsewhere',
    });
    expect(linux.render(config, [snippet('% x')])).toMatchObject({ findings: [{ rule: 'text-refused' }] });
  });

  test('no text of an edit carries code or control characters: refused at its field', () => {
    const poison = fc.constantFrom('a%b', '${x}', '<%', 'a\u0000', 'a\rb', 'a\u001b[2J', 'a\nup reboot');
    // Every text of every edit of the demo, in its place in the edit.
    const places = skerryEdits().flatMap((edit) => textPlaces(edit).map((path) => ({ edit, path })));
    fc.assert(
      fc.property(fc.constantFrom(...places), poison, ({ edit, path }, text) => {
        const bad = structuredClone(edit) as unknown;
        setAt(bad, path, text);
        expect(validate(editSchema, bad)).toHaveProperty('findings');
      }),
      { numRuns: 400 },
    );
  });
});

function textPlaces(value: unknown, path: string[] = []): string[][] {
  if (typeof value === 'string') return path.length > 1 ? [path] : [];
  if (typeof value !== 'object' || value === null) return [];
  return Object.entries(value).flatMap(([k, v]) => textPlaces(v, [...path, k]));
}
function setAt(value: unknown, path: readonly string[], text: string): void {
  const at = path.slice(0, -1).reduce((v, k) => (v as Record<string, unknown>)[k], value) as Record<string, unknown>;
  at[path.at(-1)!] = text;
}

test('the one look at a whole text sees what the look at each line sees', () => {
  const blank = fc.constantFrom('', ' ', '\t', '    ', '\u00a0', '\u2028', '\r', '\v');
  const word = fc.constantFrom(
    'up',
    'upper',
    'post-up',
    'source',
    'template',
    'mtu',
    'log file',
    'no log file',
    'banner motd file',
    'log  filter-file',
    'password',
    'neighbor x password',
    'key-string',
    'sealed:',
    '%',
    '${',
    '<%',
    'alias',
    '\u0007',
  );
  const line = fc.tuple(blank, word, blank, fc.string({ maxLength: 6 })).map((p) => p.join('').replaceAll('\n', ''));
  fc.assert(
    fc.property(
      fc.array(line, { minLength: 1, maxLength: 4 }),
      fc.constantFrom('interfaces', 'frr.conf'),
      (lines, file) => {
        const text = lines.join('\n');
        // A line of its own that is always guarded makes each line be looked at.
        expect(guardText(file, text)).toEqual(guardText(file, `${text}\n\u0001`).filter((l) => l.line <= lines.length));
      },
    ),
    { numRuns: 2000 },
  );
});

test('whatever stands in a configuration, writing it finds what a look at the whole text finds', () => {
  const skerry = [...configsOf(skerryIntent()).configs.values()];
  const evil = fc.constantFrom(
    'p1',
    'x % y',
    '${run}',
    'a\nup touch x',
    '\u0007',
    'x password y',
    'sealed:AAAAAAAAAAAAAAAAAAAAAA',
    'calm sea',
    'p1\n neighbor p1 password z',
  );
  fc.assert(
    fc.property(fc.constantFrom(...skerry), fc.nat(9), evil, (config, where, word) => {
      const { bgp, bridge, ports } = config;
      const places: readonly (() => SwitchConfig)[] = [
        () => ({ ...config, hostname: word }),
        () => ({ ...config, ports: ports.map((p, i) => (i === 0 ? { ...p, name: word } : p)) }),
        () => ({ ...config, ports: ports.map((p, i) => (i === 1 ? { ...p, description: word } : p)) }),
        () => ({ ...config, ports: ports.map((p, i) => (i === 0 ? { ...p, name: word, tracked: true } : p)) }),
        () => ({ ...config, bgp: { ...bgp!, peers: bgp!.peers.map((p, i) => (i === 1 ? { ...p, name: word } : p)) } }),
        () => ({ ...config, bgp: { ...bgp!, peers: bgp!.peers.map((p, i) => (i === 1 ? { ...p, group: word } : p)) } }),
        () => ({
          ...config,
          bgp: { ...bgp!, peers: bgp!.peers.map((p, i) => (i === 1 ? { ...p, description: word } : p)) },
        }),
        () => ({ ...config, bgp: { ...bgp!, ipv4: { ...bgp!.ipv4, active: [word] } } }),
        () => ({ ...config, ...(bridge ? { bridge: { ...bridge, ports: [...bridge.ports, word] } } : {}) }),
        () => ({ ...config, vrfs: [{ name: word, l3Vni: 5 }] }),
      ];
      const { files, findings } = linux.render(places[where]!());
      expect(findings.map((f) => [f.place!.file, f.place!.line])).toEqual(
        guardFiles(files).map((g) => [g.file, g.line]),
      );
    }),
    { numRuns: 400 },
  );
});
