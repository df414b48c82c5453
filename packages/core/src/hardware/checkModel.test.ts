import fc from 'fast-check';
import { expect, test } from 'vitest';
import { MODELS } from '../demo/skerry.ts';
import { blocksOf, blocksText, checkModel } from './checkModel.ts';
import type { PortBlock } from './switchModel.ts';
import { tablesOf, tablesText } from './tables.ts';

test('blocks of ports are read as they are written', () => {
  const block: fc.Arbitrary<PortBlock> = fc.record(
    {
      ports: fc.constantFrom('p1-p48', 'p49', 'p49-p56', 'p1-p4,p9'),
      speed: fc.integer({ min: 1, max: 1600 }),
      splits: fc.subarray([2, 4, 8], { minLength: 1 }),
    },
    { requiredKeys: ['ports', 'speed'] },
  );
  fc.assert(
    fc.property(fc.array(block, { maxLength: 5 }), (blocks) => {
      expect(blocksOf(blocksText(blocks))).toEqual(blocks);
    }),
  );
  expect(blocksOf('  p1-p48   25 \n\n p49-p56 100g x 2 4')).toEqual([
    { ports: 'p1-p48', speed: 25 },
    { ports: 'p49-p56', speed: 100, splits: [2, 4] },
  ]);
  for (const wrong of [
    'p1-p48',
    '25 p1-p48',
    'p1- 25',
    'p1 25G 7',
    'p1 25G ×',
    'p1 25G × 9',
    'p1 25G × 2 × 4',
    'p1 fast',
  ])
    expect(blocksOf(wrong), wrong).toBeNull();
});

test('what tables hold is read as it is written', () => {
  fc.assert(
    fc.property(
      fc.record(
        Object.fromEntries(['vnis', 'vrfs', 'lags', 'gateways'].map((k) => [k, fc.integer({ min: 1, max: 1e6 })])),
        {
          requiredKeys: [],
        },
      ),
      (sizes) => {
        expect(tablesOf(tablesText(sizes))).toEqual(sizes);
      },
    ),
  );
  expect(tablesOf('512 vrfs ,4000 VNIs')).toEqual({ vrfs: 512, vnis: 4000 });
  for (const wrong of ['VNIs 4000', '4000', '1 VNIs, 2 VNIs', '4 routes', '-1 VNIs'])
    expect(tablesOf(wrong), wrong).toBeNull();
});

test('models of the demo are sound; a port in two blocks and an uneven split are said at their block', () => {
  for (const m of MODELS) expect(checkModel(m)).toEqual([]);
  const [model] = MODELS;
  const blocks = [
    { ports: 'p1-p48', speed: 25 },
    { ports: 'p48-p52', speed: 100, splits: [2, 3] },
  ];
  expect(checkModel({ ...model!, blocks }).map((f) => [f.path, f.message])).toEqual([
    ['/blocks/1/ports', `Port p48 of ${model!.name} stands in p1-p48 already.`],
    ['/blocks/1/splits', 'A port of 100G cannot become 3 ports of one speed.'],
  ]);
  expect(checkModel({ ...model!, blocks: [blocks[0]!, { ports: 'p49-p52', speed: 100, splits: [2, 4] }] })).toEqual([]);
});
