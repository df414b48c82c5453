import type { ConfigFiles, Dialect } from '../dialects/dialect.ts';
import type { Finding } from '../finding.ts';

interface Spot {
  readonly file: string;
  readonly line: number;
}

/** Where each place of a SwitchConfig stands in the text; the first line that speaks of it. */
export function lineIndex(dialect: Dialect, files: ConfigFiles): Map<string, Spot> {
  const spots = new Map<string, Spot>();
  dialect.parse(files, (path, file, line) => {
    if (!spots.has(path)) spots.set(path, { file, line });
  });
  return spots;
}

/**
 * Gives findings about switches their file and line, by reading the text of just those switches again. A path that has
 * no line of its own gets the line of the block around it.
 */
export function placeFindings(
  findings: readonly Finding[],
  textOf: (host: string) => ConfigFiles | undefined,
  dialect: Dialect,
): Finding[] {
  const indexes = new Map<string, Map<string, Spot>>();
  return findings.map((finding) => {
    if (finding.place || finding.host === undefined || finding.configPath === undefined) return finding;
    const files = textOf(finding.host);
    if (!files) return finding;
    let index = indexes.get(finding.host);
    if (!index) indexes.set(finding.host, (index = lineIndex(dialect, files)));
    for (
      let path = finding.configPath;
      path !== '';
      path = path.includes('.') ? path.slice(0, path.lastIndexOf('.')) : ''
    ) {
      const spot = index.get(path);
      if (spot) return { ...finding, place: { host: finding.host, ...spot } };
    }
    return finding;
  });
}
