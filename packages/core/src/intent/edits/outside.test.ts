import { describe, expect, test } from 'vitest';
import { layOut } from '../../layout/layout.ts';
import { intentOf, LAY_BORDER } from '../../testing/fabricOf.ts';
import type { OutsideLink } from '../intent.ts';
import { applyEdit, describeEdit, type Edit } from './index.ts';

/** A border pair and a single rack; a server on p1 of the pair, a cable to offing-1 on p46. */
const link: OutsideLink = { rack: 1, side: 'a', port: 'p46', system: 'offing-1', farPort: 'eth1' };
const border = intentOf(
  LAY_BORDER,
  { kind: 'addNetwork', network: { name: 'gauges', vrf: '', vlan: 20, subnetLength: 24, racks: [1, 2] } },
  {
    kind: 'connectServer',
    port: { rack: 1, side: 'both', port: 'p1', server: 'gauge-1', untagged: 'gauges', tagged: [] },
  },
  { kind: 'joinOutside', link },
);
const refused = (edit: Edit) => applyEdit(border, edit).findings.map((f) => [f.path, f.message, f.cure]);

describe('outside links', () => {
  test('are cables of the layout, on a port that servers cannot have', () => {
    expect(layOut(border).outward).toEqual([
      {
        id: 'leaf-1a:p46',
        kind: 'outside',
        a: { seat: 'leaf-1a', port: 'p46' },
        far: { name: 'offing-1', port: 'eth1' },
        driven: {},
      },
    ]);
    const server = { rack: 1, side: 'both', port: 'p46', server: 'late', untagged: 'gauges', tagged: [] } as const;
    expect(refused({ kind: 'connectServer', port: server })).toEqual([
      ['/port/port', 'p46 of rack 1 leads to offing-1.', 'Choose another port.'],
    ]);
    expect(refused({ kind: 'connectServer', port: { ...server, side: 'b' } })).toEqual([]);
  });

  test.each<[Partial<OutsideLink>, string, RegExp, RegExp]>([
    [{ rack: 9 }, '/link/rack', /There is no rack 9/, /Choose a rack/],
    [{ rack: 2, port: 'p46' }, '/link/rack', /Rack 2 \(single-48\) is no border/, /Rack 1 is one/],
    [{ to: 'site', port: 'p45' }, '/link/rack', /is no site gateway/, /duty site-gateway first/],
    [{ port: 'p49' }, '/link/port', /p49 is no port of rack 1 that is free/, /Those are p1-p46/],
    [{ port: 'p1', side: 'b' }, '/link/port', /p1 of rack 1 is gauge-1's/, /another port/],
    [{ side: 'a' }, '/link/port', /p46 of rack 1 is offing-1's/, /another port/],
    [{ side: 'b' }, '/link/farPort', /eth1 of offing-1 is joined to rack 1 p46 \(a\)/, /another port of it/],
  ])('%o is refused at its field, with the cure', (of, path, says, cure) => {
    const [first] = refused({ kind: 'joinOutside', link: { ...link, ...of } });
    expect(first![0]).toBe(path);
    expect(first![1]).toMatch(says);
    expect(first![2]).toMatch(cure);
  });

  test('go with their rack, which says so; a pattern that has no place for them any more is refused', () => {
    expect(describeEdit({ kind: 'removeRack', number: 1 }, border)).toBe(
      'Remove rack 1, with 1 server port and 1 outside link; 1 network no longer on it',
    );
    expect(applyEdit(border, { kind: 'removeRack', number: 1 }).intent.outside).toEqual([]);
    const own = border.rackPatterns.find((p) => p.name === 'border-pair')!;
    const { duties: _, ...idle } = own;
    expect(refused({ kind: 'putRackPattern', rackPattern: idle })[0]![0]).toBe('/rackPattern/duties');
    expect(refused({ kind: 'putRackPattern', rackPattern: { ...own, serverPorts: 'p1-p45' } })[0]![0]).toBe(
      '/rackPattern/serverPorts',
    );
  });

  test('a network that is bridged only has no subnet, and a switched fabric no VRF and no pair', () => {
    expect(
      refused({
        kind: 'addNetwork',
        network: { name: 'fog', vrf: '', vlan: 21, subnetLength: 24, subnet: '10.1.0.0/24', racks: [1] },
      }),
    ).toEqual([
      [
        '/network/subnet',
        'fog is bridged only: no switch has an address in it.',
        'Leave the subnet empty, or choose a VRF.',
      ],
    ]);
    const switched = intentOf({
      ...LAY_BORDER,
      pattern: { ...LAY_BORDER.pattern, shape: 'switched', racks: [{ pattern: 'single-48', count: 1 }] },
    });
    const no = (edit: Edit) => applyEdit(switched, edit).findings.map((f) => [f.path, f.cure]);
    expect(no({ kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } })).toEqual([
      ['/vrf/name', 'Add networks without a VRF, and route them outside.'],
    ]);
    expect(no({ kind: 'addRack', rack: { number: 2, pattern: 'border-pair', slot: 2 } })).toEqual([
      ['/rack/pattern', 'Choose a rack pattern of one leaf.'],
    ]);
  });
});
