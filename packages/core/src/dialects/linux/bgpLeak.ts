import type { UnicastFamily } from '../../config/bgp.ts';
import { failed, unmodelled, type Answer, type FrrReading } from './blocks.ts';
import { placeIn, unicastOf, type SpeakerDraft, type UnicastName } from './draft.ts';

/** Routes that a VRF has from others of its switch. */
export function leakLines({ importsFrom, importMap }: UnicastFamily): string {
  let out = importMap === undefined ? '' : `\n  import vrf route-map ${importMap}`;
  for (const vrf of importsFrom ?? []) out += `\n  import vrf ${vrf}`;
  return out;
}

/** Reads `import vrf NAME` and `import vrf route-map NAME`, and what takes them back. */
export function readLeak(
  w: readonly string[],
  line: string,
  b: SpeakerDraft,
  which: UnicastName,
  { at }: FrrReading,
): Answer {
  const taken = w[0] === 'no';
  const [, of, name, map] = taken ? w.slice(1) : w;
  if (of !== 'vrf') return false;
  const ofMap = name === 'route-map';
  if (name === undefined || (ofMap && map === undefined && !taken)) return 'it names no VRF and no route map';
  const own = b.place[2];
  if (name === own) return failed(`a VRF has its own routes: ${name} is not brought into itself`);
  // What is outside of VRFs is no table of tenants.
  if (own === undefined || name === 'default') return unmodelled(`“${line}” is not modelled`);
  const family = unicastOf(b, which);
  if (ofMap) {
    if (taken) delete family.importMap;
    else family.importMap = map!;
    return at(placeIn(b, which, 'importMap'));
  }
  const others = (family.importsFrom ?? []).filter((v) => v !== name);
  family.importsFrom = taken ? others : [...others, name];
  if (family.importsFrom.length === 0) delete family.importsFrom;
  return at(placeIn(b, which, 'importsFrom'));
}
