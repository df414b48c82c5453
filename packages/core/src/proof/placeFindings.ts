import { around, placeKey, type Place } from '../config/switchConfig.ts';
import type { Dialect } from '../dialects/dialect.ts';
import type { ConfigFiles } from '../dialects/documents.ts';
import type { Finding } from '../finding.ts';

/** The documents of a switch and what they are written in. */
export interface WrittenText {
  readonly dialect: Dialect;
  readonly files: ConfigFiles;
}

interface Spot {
  readonly file: string;
  readonly line: number;
}

/** Where each place of a SwitchConfig stands in the text, by its key; the first line that speaks of it. */
export function lineIndex({ dialect, files }: WrittenText): Map<string, Spot> {
  const spots = new Map<string, Spot>();
  dialect.parse(files, (place, file, line) => {
    const key = placeKey(place);
    if (!spots.has(key)) spots.set(key, { file, line });
  });
  return spots;
}

/**
 * Gives findings about switches their file and line, by reading the text of just those switches again. A place that has
 * no line of its own gets the line of the block around it.
 */
export function placeFindings(
  findings: readonly Finding[],
  textOf: (host: string) => WrittenText | undefined,
): Finding[] {
  const indexes = new Map<string, Map<string, Spot>>();
  return findings.map((finding) => {
    if (finding.place || finding.host === undefined || finding.configPlace === undefined) return finding;
    const text = textOf(finding.host);
    if (!text) return finding;
    let index = indexes.get(finding.host);
    if (!index) indexes.set(finding.host, (index = lineIndex(text)));
    for (let place = finding.configPlace as Place; place.length > 0; place = around(place)) {
      const spot = index.get(placeKey(place));
      if (spot) return { ...finding, place: { host: finding.host, ...spot } };
    }
    return finding;
  });
}
