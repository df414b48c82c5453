import type { VersionRequest } from '@anthemion/contract';
import type { Reads } from '../store/database.ts';
import { keepVersion, runningVersions, versionJudge } from '../store/softwareVersions.ts';
import { switchOf } from '../store/switches.ts';
import { notNow, notThere } from '../trouble.ts';
import { at, type House } from './house.ts';

/**
 * Its dialect may write to every switch that runs the version this one runs: somebody has looked whether it takes what is
 * written. What was accepted stays accepted.
 */
export async function acceptVersion(
  house: House,
  serial: string,
  { version, reason }: VersionRequest,
  by: string,
): Promise<void> {
  await house.db.transaction().execute(async (tx) => {
    const row = await switchOf(tx, serial);
    if (!row) throw notThere(`switch ${serial}`);
    const untried = (await versionJudge(tx))(row.model, row.version);
    if (!untried)
      throw notNow(
        `${serial} ${row.version === null ? 'was never read' : `runs ${row.version}, which may be written to`}.`,
      );
    // What was shown is what is accepted: it may run another by now.
    if (untried.version !== version) throw notNow(`${serial} runs ${untried.version} by now, not ${version}.`);
    await keepVersion(tx, untried, by, reason, at(house));
  });
  house.events.tell('switches');
}

/** Refuses to write to switches whose version nobody has tried or accepted, all by name. */
export async function mustBeTried(db: Reads, serials: readonly string[]): Promise<void> {
  const judge = await versionJudge(db);
  const untried = (await runningVersions(db, serials)).flatMap(({ serial, model, version }) => {
    const found = judge(model, version);
    return found ? [{ serial, ...found }] : [];
  });
  const [first] = untried;
  if (!first) return;
  const names = untried.slice(0, 5).map((u) => u.serial);
  const more = untried.length > names.length ? ` and ${untried.length - names.length} more` : '';
  throw notNow(
    `${names.join(', ')}${more} ${untried.length === 1 ? 'runs' : 'run'} ${[...new Set(untried.map((u) => u.version))].join(' and ')}, with which the ${first.dialect} dialect was never tried: what it writes may be taken otherwise there. Accept the version under Switches, or leave ${untried.length === 1 ? 'it' : 'them'} out.`,
  );
}
