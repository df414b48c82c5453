import { askCommand } from './ask.ts';
import { compileCommand } from './compile.ts';
import { readCommand } from './read.ts';
import { tableCommand } from './table.ts';
import { schemaCommand } from './schema.ts';
import { USAGE } from './usage.ts';

/** Exit codes: 0 clean, 1 findings, 2 input that cannot be read. */
const commands: Readonly<Record<string, (args: readonly string[]) => number>> = {
  ask: askCommand,
  compile: compileCommand,
  read: readCommand,
  schema: schemaCommand,
  table: tableCommand,
};

const [name = '', ...args] = process.argv.slice(2);
const command = Object.hasOwn(commands, name) ? commands[name] : undefined;
if (!command) {
  process.stderr.write(USAGE);
  process.exitCode = name === '' || name === 'help' || name === '--help' ? 0 : 2;
} else process.exitCode = command(args);
