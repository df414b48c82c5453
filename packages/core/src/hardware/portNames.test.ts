import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { MODELS } from '../demo/skerry.ts';
import { expandPorts, isPortLabel } from '../numbers/ports.ts';
import { checkRackPattern } from '../patterns/rackPattern.ts';
import { blocksOf, checkModel } from './checkModel.ts';
import { lagNumber } from './lagNumber.ts';
import { portNames } from './portNames.ts';
import { portsOf, type SwitchModel } from './switchModel.ts';

const model = (lines: string): SwitchModel => ({ ...MODELS[0]!, name: 'QY-1', blocks: blocksOf(lines)! });
const wrong = (lines: string): string[] => checkModel(model(lines)).map((f) => f.message);

describe('labels and lists of them', () => {
  test.each(['e1/1', 'p-0/0/1', 'port1.2', 'p1s0', 'Eth1/49/2', '1/1', 'c0:3', 'xe-0/0/47', 'p12'])(
    '%s is one',
    (label) => {
      expect(isPortLabel(label)).toBe(true);
      expect(expandPorts(label)).toEqual([label]);
    },
  );
  test.each(['', 'p', 'e1/', '/1', 'e1//1', 'e1-2', 'p 1', 'e1_1', 'ä1', 'e1/1a', `p${'1'.repeat(40)}`])(
    '“%s” is none',
    (label) => expect(isPortLabel(label)).toBe(false),
  );
  test.each<[string, string[] | null]>([
    ['e1/1-e1/3', ['e1/1', 'e1/2', 'e1/3']],
    ['e1/1-3', ['e1/1', 'e1/2', 'e1/3']],
    ['e1/1-1/3', ['e1/1', 'e1/2', 'e1/3']],
    ['1/1-1/3', ['1/1', '1/2', '1/3']],
    ['p-0/0/46-p-0/0/47', ['p-0/0/46', 'p-0/0/47']],
    ['port1.1-port1.2', ['port1.1', 'port1.2']],
    ['p1s0-p1s1', ['p1s0', 'p1s1']],
    ['p1s0-s1', ['p1s0', 'p1s1']],
    ['p49s1-p50s2', ['p49s1', 'p49s2', 'p50s1', 'p50s2']],
    ['e1/1-e2/2', ['e1/1', 'e1/2', 'e2/1', 'e2/2']],
    ['e1/5:0-e1/5:1, e1/9', ['e1/5:0', 'e1/5:1', 'e1/9']],
    ['e01-e03', ['e01', 'e02', 'e03']],
    ['e1/3-e1/1', null],
    ['e1/1-f1/3', null],
    ['e1/1-e1/2/3', null],
    ['e1/1-', null],
    ['e1-2-3', null],
    ['e1-e09', null],
    ['e1/1-e99/99', null],
  ])('%s', (text, ports) => expect(expandPorts(text)).toEqual(ports));
});

describe('what a switch calls its ports', () => {
  test('labels the kernel does not take are put otherwise, or as the model says; parts follow their port', () => {
    const names = portNames(
      model('e1/1-e1/8 25G\ne1/9-e1/10 100G × 2, 4 as /1\n1/1 10G\nx1-x2 10G × 4 as s0 = swp1-swp2'),
    );
    const pairs = {
      'e1/8': 'e1-8',
      'e1/9/4': 'e1-9-4',
      '1/1': 'p1-1',
      x2: 'swp2',
      x2s0: 'swp2s0',
      'e1/8.100': 'e1-8.100',
    };
    for (const [label, name] of Object.entries(pairs)) {
      expect(names.nameOf(label)).toBe(name);
      expect(names.labelOf(name)).toBe(label);
    }
    // What the model does not have keeps its words: `lo`, a LAG, a port somebody made by hand.
    for (const other of ['lo', 'bond1', 'e1/11', 'dummy7', '10.0.0.1', 'bond1.20']) {
      expect(names.nameOf(other)).toBe(other);
      expect(names.labelOf(other)).toBe(other);
    }
    expect(portNames(MODELS[0]).key).toBe('');
    expect([...portsOf(model('c1-c2 100G × 4 as :0'), [{ ports: 'c2', into: 4 }]).keys()]).toEqual([
      'c1',
      'c2:0',
      'c2:1',
      'c2:2',
      'c2:3',
    ]);
  });

  test('whatever a sound model is, both names lead to one another', () => {
    const block = fc.record({
      mark: fc.constantFrom('p', 'e1/', 'x-0/0/', 'port2.', '3/', 'Eth'),
      from: fc.integer({ min: 0, max: 60 }),
      more: fc.integer({ min: 0, max: 20 }),
      ways: fc.constantFrom('', ' × 2, 4', ' × 4 as s0', ' × 4 as :1', ' × 8 as .0'),
      named: fc.boolean(),
    });
    let sound = 0;
    fc.assert(
      fc.property(fc.array(block, { minLength: 1, maxLength: 4 }), (blocks) => {
        const lines = blocks.map(({ mark, from, more, ways, named }, i) => {
          const own = named ? ` = swp${100 * i + 1}-swp${100 * i + 1 + more}` : '';
          return `${mark}${from}-${mark}${from + more} 400G${ways}${own}`;
        });
        const made = model(lines.join('\n'));
        if (checkModel(made).length > 0) return;
        sound++;
        const { nameOf, labelOf } = portNames(made);
        const labels = [...portsOf(made).keys()];
        const names = labels.map(nameOf);
        expect(new Set(names).size).toBe(labels.length);
        expect(names.map(labelOf)).toEqual(labels);
        for (const n of names) expect(n).toMatch(/^[A-Za-z][\w-]{0,14}$/);
      }),
    );
    expect(sound).toBeGreaterThan(30);
  });

  test('names that no switch takes are said at their block, with the cure', () => {
    expect(wrong('e1/1-e1/48 25G')).toEqual([]);
    expect(wrong('e1/1-e1/48 25G = swp1-swp47')).toEqual(['e1/1-e1/48 of QY-1 are 48 ports, swp1-swp47 are 47 names.']);
    expect(wrong('Ethernet1/1/47 25G')).toEqual([]);
    expect(wrong('Ethernet10/1/47 25G')).toEqual([]);
    expect(wrong('Ethernet110/1/47 25G')).toEqual([
      'The switch would call Ethernet110/1/47 Ethernet110-1-47, but a name has at most 15 characters there.',
    ]);
    expect(wrong('e1/1 25G\ne1.1 25G')).toEqual(['e1/1 and e1.1 of QY-1 would both be e1-1 on the switch.']);
    expect(wrong('e1 25G = p/1')).toEqual([
      'No switch takes p/1 as the name of e1: a name holds letters, digits, - and _, the first one a letter.',
    ]);
    expect(wrong('bond1-bond2 25G')).toEqual([
      'bond1 is a name that interfaces of the fabric bear; a port cannot have the name.',
    ]);
    expect(wrong('eth0-eth3 25G')).toEqual(['eth0 is an interface of the switch itself; a port cannot have the name.']);
    expect(wrong('eth1-eth3 25G')).toEqual([]);
    expect(wrong('port1 25G\nport1.2 25G = q1')).toEqual(['port1.2 of QY-1 is what a VLAN of port port1 is called.']);
  });

  test('LAGs are numbered by the numbers of their ports; a pair whose LAGs would share one is refused', () => {
    expect(['p7', 'p49s2', 'e1/12', 'p-0/0/1', 'p-0/0/0', 'e1/2:0'].map(lagNumber)).toEqual([
      7, 49002, 1012, 1, 999, 1002000,
    ]);
    const pair = (ports: string, lines: string) =>
      checkRackPattern({ name: 'x', kind: 'esi-pair', leafModel: 'QY-1', serverPorts: ports, uplinkPorts: 'u1' }, [
        model(`${lines}\nu1 100G`),
      ]).map((f) => f.message);
    expect(pair('e1/1-e1/8', 'e1/1-e1/8 25G')).toEqual([]);
    expect(pair('e1-e2,p1', 'e1-e8 25G\np1 25G')).toEqual(['LAGs on e1 and on p1 would both have number 1.']);
    expect(pair('e17/1/1', 'e17/1/1 25G')).toEqual(['A LAG on e17/1/1 would have number 17001001; it has 1–16777215.']);
  });
});
