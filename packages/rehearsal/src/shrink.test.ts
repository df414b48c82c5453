import { folderTexts, readSwitchFolder, type SwitchFolder } from '@anthemion/core';
import { expect, test } from 'vitest';
import { generated } from './generate.ts';
import { shrink } from './shrink.ts';

const [folder] = generated(1, 7);
const hosts = folder!.switches.map((s) => s.host);
const [kept, needed] = [hosts.at(-1)!, hosts[0]!];
const has = (f: SwitchFolder, host: string): boolean => f.switches.some((s) => s.host === host);

test('what differs is made smaller until nothing can be taken away, and the switch with the mistake stays', async () => {
  const seen: string[][] = [];
  const { folder: small, held } = await shrink(folder!, kept, (f) => {
    seen.push(f.switches.map((s) => s.host));
    return Promise.resolve(has(f, needed));
  });
  expect(small.switches.map((s) => s.host)).toEqual([needed, kept]);
  expect(small.hosts).toEqual([]);
  expect(small.cables.every((c) => [needed, kept].includes(c.a.host) && [needed, kept].includes(c.b.host))).toBe(true);
  expect(held).toBe(hosts.length);
  expect(seen.every((s) => s.includes(kept))).toBe(true);
  // Where nothing smaller differs it stays as it is.
  const same = await shrink(folder!, kept, () => Promise.resolve(false));
  expect(same.folder).toBe(folder);
});

test('a kept folder is read again as it was', () => {
  const again = readSwitchFolder(folderTexts(folder!));
  if (typeof again === 'string') throw new Error(again);
  expect([...again.files]).toEqual([...folder!.files].sort(([a], [b]) => (a < b ? -1 : 1)));
  expect([again.cables, again.hosts.map((h) => [h.host, h.ip, h.port])]).toEqual([
    folder!.cables,
    folder!.hosts.map((h) => [h.host, h.ip, h.port]),
  ]);
});
