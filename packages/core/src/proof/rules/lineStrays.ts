import { found, type DesignRule } from '../rule.ts';

export const lineStrays: DesignRule = {
  id: 'line-strays',
  title: 'Every line works where it stands',
  severity: 'error',
  scope: 'network',
  source: 'FRR takes a line that a block does not know in the one above it, without a word',
  reads: ['unread'],
  judge: ({ switches }) =>
    switches.flatMap((s) =>
      s.unread
        .filter((u) => u.landed !== undefined)
        .map((u) => ({
          ...found(
            lineStrays,
            { host: s.host },
            `${s.host} ${u.file}: “${u.text}” does not work where it stands: FRR puts it into ${u.landed}.`,
            'Move it to the block it belongs to, or take it out; mind the lines after it, which may have moved with it.',
          ),
          place: { host: s.host, file: u.file, line: u.line },
        })),
    ),
};
