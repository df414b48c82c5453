// Types and lint in one process: what the compiler has found out of the types is not found out anew by the rules that ask for them.
import { ESLint } from 'eslint';
import ts from 'typescript';
import { root } from './ready.mjs';

const say = (text) => process.stdout.write(`${text}\n`);
const where = {
  getCanonicalFileName: (name) => name,
  getCurrentDirectory: () => root,
  getNewLine: () => '\n',
};

/** All sources, and what the compiler finds wrong with them. */
function typed() {
  const { fileNames, options, errors } = ts.getParsedCommandLineOfConfigFile(`${root}/tsconfig.json`, undefined, {
    ...ts.sys,
    onUnRecoverableConfigFileDiagnostic: (d) => {
      throw new Error(ts.formatDiagnostic(d, where));
    },
  });
  const program = ts.createProgram({ rootNames: fileNames, options });
  return { program, wrong: [...errors, ...ts.getPreEmitDiagnostics(program)] };
}

const { program, wrong } = typed();
say(`types: ${wrong.length === 0 ? 'in order' : `${wrong.length} wrong\n${ts.formatDiagnostics(wrong, where)}`}`);

const eslint = new ESLint({
  cwd: root,
  overrideConfig: {
    files: ['packages/*/src/**/*.{ts,tsx}', 'e2e/**/*.ts'],
    languageOptions: { parserOptions: { programs: [program] } },
  },
});
const results = await eslint.lintFiles(['.']);
const faults = results.reduce((n, r) => n + r.errorCount + r.warningCount, 0);
if (faults > 0) say(await (await eslint.loadFormatter('stylish')).format(results));
say(`lint: ${faults === 0 ? 'in order' : `${faults} faults`} in ${results.length} files`);
process.exitCode = wrong.length > 0 || faults > 0 ? 1 : 0;
