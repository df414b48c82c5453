import { dialectOf, type SwitchModel } from '@anthemion/core';
import type { Reads, Writes } from './database.ts';
import { allParts } from './parts.ts';

/** What is asked of a version: whether a switch that runs it may be written to. */
export type VersionJudge = (model: string, version: string | null) => UntriedVersion | null;
/** A version of a switch's software that its dialect was never tried with and nobody accepted. */
export interface UntriedVersion {
  readonly dialect: string;
  readonly version: string;
}

/** Judges versions by the models and what was accepted as they are now. */
export async function versionJudge(db: Reads): Promise<VersionJudge> {
  const models = new Map<string, SwitchModel>((await allParts(db)).models.map((m) => [m.name, m]));
  const rows = await db.selectFrom('accepted_versions').select(['dialect', 'version']).execute();
  const accepted = new Set(rows.map((r) => `${r.dialect} ${r.version}`));
  return (model, version) => {
    const { dialect, tried } = dialectOf(models.get(model), version);
    return tried || version === null || accepted.has(`${dialect.name} ${version}`)
      ? null
      : { dialect: dialect.name, version };
  };
}

/** Notes that a version was accepted; a second yes leaves the first. */
export async function keepVersion(
  db: Writes,
  of: UntriedVersion,
  by: string,
  reason: string,
  at: string,
): Promise<void> {
  await db
    .insertInto('accepted_versions')
    .values({ ...of, accepted_at: at, accepted_by: by, reason })
    .onConflict((c) => c.doNothing())
    .execute();
}

/** What switches run, by serial; those that are not known are left out. */
export async function runningVersions(
  db: Reads,
  serials: readonly string[],
): Promise<{ readonly serial: string; readonly model: string; readonly version: string | null }[]> {
  const out = [];
  for (let i = 0; i < serials.length; i += 500)
    out.push(
      ...(await db
        .selectFrom('switches')
        .select(['serial', 'model', 'version'])
        .where('serial', 'in', serials.slice(i, i + 500))
        .orderBy('serial')
        .execute()),
    );
  return out;
}
