import { describe, expect, test } from 'vitest';
import { skerryIntent } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { applyEdits, describeEdit, type Edit } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { settingsPatchSchema } from '../intent/schemas/parts.ts';
import type { FabricSettings } from '../patterns/patterns.ts';
import { joinedBorder, putNeighbourOf } from '../testing/joinedBorder.ts';
import { networkOf, subjectsOn } from '../testing/networkOf.ts';

const settings = (said: Partial<FabricSettings>): Edit => ({ kind: 'changeSettings', settings: said });
const made = (base: FabricIntent, ...edits: Edit[]): FabricIntent => {
  const { intent, findings } = applyEdits(base, edits);
  expect(findings).toEqual([]);
  return intent;
};
/** Lines about it, each with the router it stands in. */
function linesOf(text: string): string[] {
  let router = '';
  return text.split('\n').flatMap((line) => {
    router = /^router bgp \d+(?: (.*))?$/.exec(line)?.[1] ?? (line.startsWith('router bgp ') ? '' : router);
    return line.includes('graceful-restart') ? `${router}${router && ':'}${line}` : [];
  });
}

describe('BGP that starts anew', () => {
  const speaking = made(joinedBorder, putNeighbourOf());

  test('asks to be kept wherever the switch speaks to somebody, and nobody says what daemons do by themselves', () => {
    const { compiled, frrOf } = networkOf(speaking);
    expect(compiled.switches.flatMap((s) => linesOf(s.files['frr.conf']!))).toEqual([]);
    const full = networkOf(made(speaking, settings({ restart: 'full' })));
    const own = [' bgp graceful-restart', ' bgp graceful-restart preserve-fw-state'];
    expect(linesOf(full.frrOf('tn-sp-01'))).toEqual(own);
    // In the tenant that has a neighbour, and in no other.
    expect(linesOf(full.frrOf('tn-lf-01a'))).toEqual([...own, ...own.map((l) => `vrf tides:${l}`)]);
    expect(linesOf(full.frrOf('tn-lf-02'))).toEqual(own);
    for (const s of full.compiled.switches)
      expect(linux.parse(s.files)).toMatchObject({ config: s.config, unread: [] });
    // Nothing else is said, and the network is the same.
    const without = (text: string): string => text.replaceAll(/\n bgp graceful-restart.*/g, '');
    expect(without(full.frrOf('tn-lf-01a'))).toBe(frrOf('tn-lf-01a'));
    expect(full.network.sessions).toEqual(networkOf(speaking).network.sessions);
  });

  test('says how long it may be away where that is not what daemons say; or that it keeps nobody’s routes', () => {
    const skerry = skerryIntent();
    const leafOf = (said: Partial<FabricSettings>): string[] =>
      linesOf(networkOf(made(skerry, settings(said))).frrOf('sk-lf-01'));
    expect(leafOf({ restart: 'full', restartTime: 240 })).toEqual([
      ' bgp graceful-restart',
      ' bgp graceful-restart restart-time 240',
      ' bgp graceful-restart preserve-fw-state',
    ]);
    expect(leafOf({ restart: 'none', restartTime: 240 })).toEqual([' bgp graceful-restart-disable']);
    expect(leafOf({ restartTime: 240 })).toEqual([]);
    expect([4095, 4096, 0].map((restartTime) => settingsPatchSchema.isValidSync({ restartTime }))).toEqual([
      true,
      false,
      false,
    ]);
    expect(settingsPatchSchema.isValidSync({ restart: 'off' })).toBe(false);
  });

  test('is read by its last word, said or taken back', () => {
    const { files } = networkOf(skerryIntent()).compiled.switches.find((s) => s.seat.host === 'sk-lf-01')!;
    const read = (...lines: string[]) => {
      const text = files['frr.conf']!.replace(
        /\n bgp router-id .*/,
        (id) => `${id}${lines.map((l) => `\n ${l}`).join('')}`,
      );
      const { config, unread } = linux.parse({ ...files, 'frr.conf': text });
      const { restart, restartTime, keepsForwarding } = config.bgp!;
      return [restart, restartTime, keepsForwarding, unread.filter((u) => !u.harmless).map((u) => u.why)];
    };
    expect(read('bgp graceful-restart', 'bgp graceful-restart-disable')).toEqual(['none', undefined, undefined, []]);
    expect(read('bgp graceful-restart', 'no bgp graceful-restart')).toEqual([undefined, undefined, undefined, []]);
    expect(read('bgp graceful-restart restart-time 9', 'no bgp graceful-restart restart-time')).toEqual([
      undefined,
      undefined,
      undefined,
      [],
    ]);
    expect(read('bgp graceful-restart restart-time 4096')).toEqual([
      undefined,
      undefined,
      undefined,
      ['a restart time is 1–4095 seconds'],
    ]);
    expect(read('bgp graceful-restart stalepath-time 60')).toEqual([undefined, undefined, undefined, []]);
  });

  test('its lines are there for the setting, and the edit says from what to what', () => {
    const full = made(speaking, settings({ restart: 'full', restartTime: 60 }));
    const subjectOf = subjectsOn(full, 'tn-lf-01a');
    expect([
      subjectOf('bgp', 'restart'),
      subjectOf('bgp', 'restartTime'),
      subjectOf('bgp', 'vrfs', 'tides', 'keepsForwarding'),
    ]).toEqual(['setting:restart', 'setting:restart', 'setting:restart']);
    expect(describeEdit(settings({ restart: 'full' }), speaking)).toMatch(
      /graceful restart for neighbours → for neighbours and itself/i,
    );
  });
});
