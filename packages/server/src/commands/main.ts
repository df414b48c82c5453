import { parseArgs } from 'node:util';
import { readSettings } from '../settings/settings.ts';
import { StartTrouble, words } from '../trouble.ts';
import { backup } from './backup.ts';
import { resetPassword } from './resetPassword.ts';
import { restore } from './restore.ts';
import { rotateKey } from './rotateKey.ts';

/** What is done to a data folder from the machine it lies on; which folder, by the settings of the server or --data. */
const USAGE = `npm run backup -- [--to FOLDER] [--with-key] [--data DIR]
npm run restore -- FOLDER [--data DIR]
npm run rotate-key -- [--lost] [--data DIR]
npm run reset-password -- ACCOUNT [--data DIR]
`;

async function run(): Promise<string> {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: {
      data: { type: 'string' },
      to: { type: 'string' },
      'with-key': { type: 'boolean', default: false },
      lost: { type: 'boolean', default: false },
      help: { type: 'boolean', default: false },
    },
  });
  const [command, what, ...more] = positionals;
  if (values.help || more.length > 0) return USAGE;
  const data = values.data ?? readSettings({ ...process.env, ANTHEMION_LISTEN: '127.0.0.1' }).data;
  const now = (): Date => new Date();
  switch (command) {
    case 'backup':
      return (await backup(data, values.to ?? null, values['with-key'], now())).said;
    case 'restore':
      if (what === undefined) throw new StartTrouble(`Say which back-up.\n${USAGE}`);
      return restore(data, what, now());
    case 'rotate-key':
      return rotateKey(data, values.lost, now);
    case 'reset-password':
      if (what === undefined) throw new StartTrouble(`Say which account.\n${USAGE}`);
      return resetPassword(data, what, now);
    default:
      throw new StartTrouble(USAGE);
  }
}

try {
  process.stdout.write(await run());
} catch (error) {
  const code = String((error as { code?: unknown }).code ?? '');
  if (!(error instanceof StartTrouble) && !code.startsWith('ERR_PARSE_ARGS') && !/^(SQLITE|E[A-Z]+$)/.test(code))
    throw error;
  process.stderr.write(`${words(error)}\n`);
  process.exitCode = 1;
}
