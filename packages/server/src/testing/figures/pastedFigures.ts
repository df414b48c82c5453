import { POOLS, skerryEdits, skerryIntent, upTo, type Edit } from '@anthemion/core';
import { Changes } from '../../services/changes.ts';
import { openDatabase } from '../../store/database.ts';
import { addPool } from '../../store/pools.ts';
import { addSwitches } from '../../store/switches.ts';
import { houseOver } from '../houseOver.ts';
import { CompilePool } from '../../workers/compilePool.ts';
import { BY, ms, type FigureRow } from './figure.ts';

const NETWORKS = 20;
const SERVERS = 48;
const FIRST_VLAN = 600;

/** Twenty networks, and forty-eight servers, as one edit on Skerry: CPU from the call to its verdict. */
export async function pastedFigures(folder: string): Promise<FigureRow[]> {
  const db = await openDatabase(folder);
  for (const p of POOLS) await addPool(db, p, '');
  const skerry = skerryIntent();
  const model = skerry.models[0]!.name;
  const at = { model, address: '127.0.0.1', port: 22, location: '' };
  await addSwitches(
    db,
    Object.values(skerry.seating).map((serial) => ({ serial, ...at })),
  );
  const compiler = new CompilePool(folder);
  const house = houseOver(db, compiler);
  const changes = new Changes(house);
  await db.insertInto('fabrics').values({ name: skerry.name, prefix: skerry.namePrefix, created_at: '' }).execute();
  const change = await changes.open(
    { fabric: skerry.name, title: 'Pasted', reason: '', ticket: '' },
    BY,
    skerryEdits(),
  );
  const cpuOf = async (edits: readonly Edit[]): Promise<number> => {
    const before = process.cpuUsage();
    await changes.addEdits(change, edits, BY);
    const { user, system } = process.cpuUsage(before);
    return (user + system) / 1000;
  };
  const racks = skerry.racks.map((r) => r.number);
  const vrf = skerry.vrfs[0]!.name;
  const networks = await cpuOf(
    upTo(NETWORKS).map((n) => ({
      kind: 'addNetwork',
      network: { name: `pasted-${n}`, vrf, vlan: FIRST_VLAN + n, subnetLength: 26, racks },
    })),
  );
  const free = skerry.racks.flatMap(({ number }) =>
    upTo(48)
      .map((n) => `p${n}`)
      .filter((port) => !skerry.ports.some((p) => p.rack === number && p.port === port))
      .map((port) => ({ rack: number, port })),
  );
  const servers = await cpuOf(
    free.slice(0, SERVERS).map(({ rack, port }, i) => ({
      kind: 'connectServer',
      port: { rack, side: 'a', port, server: `pasted-${i}`, untagged: `pasted-${1 + (i % NETWORKS)}`, tagged: [] },
    })),
  );
  const { steps, state } = await changes.answer(change);
  if (state !== 'Proven') throw new Error(`what was pasted is ${state}`);
  await compiler.close();
  await db.destroy();
  return [
    [
      `${NETWORKS} networks on all racks of Skerry as one edit: CPU to the verdict, all threads`,
      ms(networks),
      'under 1 s',
    ],
    [`${SERVERS} servers as one edit: CPU to the verdict, all threads`, ms(servers), 'under 1 s'],
    ['… steps of that change', String(steps.length), ''],
  ];
}
