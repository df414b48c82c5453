import type { UnreadLine } from '../../dialects/dialect.ts';
import { doubtedWords } from '../../network/doubts.ts';
import { found, type DesignRule } from '../rule.ts';

const uncertain = (line: UnreadLine): string => {
  const what = doubtedWords(line);
  return what === null ? '' : ` Uncertain because of it: ${what}.`;
};

export const textRead: DesignRule = {
  id: 'text-read',
  title: 'Every line is understood',
  severity: 'error',
  scope: 'network',
  source: 'a line nobody understands cannot be proven',
  reads: ['unread'],
  judge: ({ switches }) =>
    switches.flatMap((s) =>
      s.unread
        .filter((u) => u.landed === undefined && !u.harmless)
        .map((u) => ({
          ...found(
            textRead,
            { host: s.host },
            `${s.host} ${u.file}: “${u.text}” is not understood: ${u.why}.${uncertain(u)}`,
            'Correct the line, or take it out.',
          ),
          ...(u.line > 0 ? { place: { host: s.host, file: u.file, line: u.line } } : {}),
        })),
    ),
};
