import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { skerryIntent } from '../../demo/skerry.ts';
import { configsOf, intents, wideIntents } from '../../testing/fabricOf.ts';
import { linux } from './linux.ts';

describe('linux dialect', () => {
  test('what is rendered reads back as the same configuration', () => {
    fc.assert(
      fc.property(fc.oneof(intents, wideIntents), (intent) => {
        for (const config of configsOf(intent).configs.values()) {
          const { files } = linux.render(config);
          const back = linux.parse(files);
          expect(back.unread).toEqual([]);
          expect(back.config).toEqual(config);
        }
      }),
      { numRuns: 60 },
    );
  });

  const { configs } = configsOf(skerryIntent());
  const leaf = configs.get('leaf-7a')!;
  const other = configs.get('leaf-8b')!;

  test('every line of a leaf is traced to a place in the configuration', () => {
    const { files } = linux.render(leaf);
    const seen = new Set<string>();
    linux.parse(files, (path, file, line) => {
      expect(path).not.toBe('');
      seen.add(`${file}:${line}`);
    });
    for (const [file, text] of Object.entries(files))
      text.split('\n').forEach((line, i) => {
        if (line.trim() === '' || /^[#!]/.test(line.trim())) return;
        expect(seen, `${file}:${i + 1} ${line}`).toContain(`${file}:${i + 1}`);
      });
  });

  test('promise 10: lines that are not understood are named with file, line and reason', () => {
    const { files } = linux.render(leaf);
    const broken = {
      interfaces: files['interfaces']!.replace('vxlan-id ', 'vxlan-idd '),
      'frr.conf': files['frr.conf']!.replace(' ge 32 le 32', ' ge 12 le 32').replace(
        'maximum-paths 64',
        'maximum-paths 999',
      ),
    };
    const { unread } = linux.parse(broken);
    expect(unread.map((u) => [u.file, u.why])).toEqual(
      expect.arrayContaining([
        ['interfaces', expect.stringContaining('ifupdown2 has no word vxlan-idd')],
        ['frr.conf', expect.stringContaining('length 24 < ge')],
        ['frr.conf', 'maximum-paths takes 1–256'],
      ]),
    );
    for (const u of unread)
      expect(broken[u.file as 'interfaces'].split('\n')[u.line - 1]).toContain(u.text.split(' ')[0]);
  });

  test('a text reads the same whether blocks of it were read before or not, however it is cut and mixed', () => {
    const stanzas = [leaf, other].flatMap((c) => linux.render(c).files['interfaces']!.split('\n\n'));
    const lines = stanzas.flatMap((s) => s.split('\n'));
    const piece = fc.oneof(
      { weight: 4, arbitrary: fc.constantFrom(...stanzas) },
      // Some that follow one another, as they mostly do.
      { weight: 4, arbitrary: fc.nat(stanzas.length - 1).map((i) => stanzas.slice(i, i + 4).join('\n\n')) },
      { weight: 1, arbitrary: fc.constantFrom(...lines) },
      {
        weight: 1,
        arbitrary: fc.constantFrom(
          ...['', '\n', 'source x', '    address 10.9.9.9/24', 'iface vlan210', 'auto vlan210'],
          ...['10.9.9.9', '10.9.9', ''].map((a) => `    vxlan-local-tunnelip ${a}`),
        ),
      },
    );
    const texts = fc
      .array(fc.tuple(piece, fc.constantFrom('\n', '\n\n', '\n\n', ' \n')), { minLength: 1, maxLength: 14 })
      .map((parts) => parts.map((p) => p.join('')).join(''));
    fc.assert(
      fc.property(texts, (interfaces) => {
        const files = { interfaces, 'frr.conf': '' };
        // With a recorder nothing is taken from what was kept.
        const read = linux.parse(files, () => undefined);
        expect(linux.parse(files)).toEqual(read);
        expect(linux.parse(files)).toEqual(read);
      }),
      { numRuns: 500 },
    );
  });

  test('nor does it matter of blocks of FRR', () => {
    const frr = [leaf, other].map((c) => linux.render(c).files['frr.conf']!);
    const blocks = frr.flatMap((text) => text.match(/^ {2}vni \d+\n(?: {3}.*\n)*/gm)!.slice(0, 5));
    const lines = blocks.flatMap((b) => b.trimEnd().split('\n'));
    const odd = [
      '   rd 65000',
      '   rd 10.1.1.1:9',
      '   route-target both 65000:9',
      ' exit-address-family',
      'exit',
      '!',
    ];
    const stray = [
      '  no advertise-all-vni',
      '   neighbor 10.0.0.1 activate',
      'ip nht resolve-via-default',
      '  advertise-all-vni',
    ];
    const piece = fc.oneof(
      { weight: 6, arbitrary: fc.constantFrom(...blocks).map((b) => `${b}  exit-vni\n`) },
      { weight: 1, arbitrary: fc.constantFrom(...blocks, '  exit-vni\n', ' address-family l2vpn evpn\n') },
      { weight: 1, arbitrary: fc.constantFrom(...lines, ...odd, ...stray).map((l) => `${l}\n`) },
    );
    const texts = fc.array(piece, { minLength: 1, maxLength: 12 }).map((parts) => parts.join(''));
    fc.assert(
      fc.property(texts, (evpn) => {
        const text = `router bgp 65001\n address-family l2vpn evpn\n${evpn}  exit-vni\n exit-address-family\nexit\n`;
        const files = { interfaces: '', 'frr.conf': text };
        const read = linux.parse(files, () => undefined);
        expect(linux.parse(files)).toEqual(read);
        expect(linux.parse(files)).toEqual(read);
      }),
      { numRuns: 500 },
    );
    // Another switch has another RD, and the same targets.
    const vnis = frr.map((text) => linux.parse({ interfaces: '', 'frr.conf': text }).config.bgp!.evpn.vnis);
    expect(vnis).toEqual([leaf, other].map((c) => c.bgp!.evpn.vnis));
  });

  test('nor of what interfaces are told of OSPF', () => {
    const port = fc.constantFrom('p1', 'p2');
    const word = fc.constantFrom(
      ...[
        ' ip ospf area 0.0.0.0',
        ' ip ospf area 0.0.0.1',
        ' ip ospf bfd',
        ' ip ospf bfd profile FABRIC',
        ' ip ospf cost 7',
      ],
      ...[
        ' no ip ospf cost',
        ' ip ospf cost 0',
        ' ipv6 ospf6 area 0.0.0.0',
        ' ipv6 ospf6 bfd profile FABRIC',
        ' no ipv6 ospf6 bfd',
      ],
    );
    const odd = fc.constantFrom(
      ...[
        ' ip address 10.9.9.9/24',
        ' description exit',
        'ip ospf area 0.0.0.0',
        ' shutdown',
        'exit',
        '!',
        'router ospf',
      ],
      ...[' network 10.0.0.0/8 area 0.0.0.0', ' router-id 10.0.0.1', ' ip ospf nonsense', 'hostname x', 'vrf red'],
    );
    const block = fc
      .tuple(port, fc.array(word, { maxLength: 3 }), fc.constantFrom('exit\n!\n', 'exit\n', 'quit\n', ''))
      .map(([p, words, end]) => `interface ${p}\n${words.map((w) => `${w}\n`).join('')}${end}`);
    const texts = fc
      .array(fc.oneof({ weight: 4, arbitrary: block }, { weight: 1, arbitrary: odd.map((l) => `${l}\n`) }), {
        maxLength: 10,
      })
      .map((parts) => parts.join(''));
    const interfaces = ['p1', 'p2'].map((p) => `auto ${p}\niface ${p}\n\n`).join('');
    fc.assert(
      fc.property(texts, texts, (frr, other) => {
        const files = { interfaces, 'frr.conf': frr };
        const read = linux.parse(files, () => undefined);
        expect(linux.parse(files)).toEqual(read);
        expect(linux.parse(files)).toEqual(read);
        // Nor of what was read of the switch before, twice over.
        const last = linux.parse({ interfaces, 'frr.conf': other }, undefined, null);
        expect(linux.parse(files, undefined, last)).toEqual(read);
        expect(linux.parse(files, undefined, linux.parse(files, undefined, last))).toEqual(read);
        expect(linux.parse({ 'frr.conf': frr }, undefined, last)).toEqual(linux.parse({ 'frr.conf': frr }));
      }),
      { numRuns: 500 },
    );
  });

  test('a line unknown inside a block is tried in the block above, as the daemon does', () => {
    const { config, unread } = linux.parse({
      interfaces: '',
      'frr.conf': 'router bgp 65001\n address-family ipv4 unicast\n bgp router-id 10.0.0.1\nhostname late\n',
    });
    expect(unread).toEqual([]);
    expect(config.bgp?.routerId).toBe('10.0.0.1');
    expect(config.hostname).toBe('late');
  });

  test('a snippet with an endless loop stops at its limit and says so; a sound one is appended and read', () => {
    const endless = {
      name: 'spin',
      file: 'frr.conf' as const,
      on: 'all' as const,
      text: '{% for i in (1..900000000) %}{{ i }}{% endfor %}',
    };
    const stopped = linux.render(leaf, [endless]);
    expect(stopped.findings[0]?.message).toMatch(/Snippet spin takes more than it may/);
    const note = {
      name: 'quiet',
      file: 'frr.conf' as const,
      on: 'all' as const,
      text: 'log file /var/log/{{ switch.hostname }}.log',
      runsElsewhere: true,
    };
    const fine = linux.render(leaf, [note]);
    expect(fine.findings).toEqual([]);
    expect(fine.files['frr.conf']).toContain('log file /var/log/sk-lf-07a.log');
    expect(linux.parse(fine.files).unread).toEqual([]);
  });
});

test('documents are rendered in the order that is declared: texts are kept under a digest of both', () => {
  for (const config of configsOf(skerryIntent()).configs.values())
    expect(Object.keys(linux.render(config).files)).toEqual(linux.documents.map((d) => d.name));
});
