import { answersOf, dialectWriting, judgeNetwork, modelNetwork, placeFindings, sessionDoubt } from '@anthemion/core';
import { folderIn } from './folder.ts';
import { findingText, readArguments, refuse } from './usage.ts';

/** `read DIR [--json]`: whatever text is in the folder → the network model's answers and the rules' findings. */
export function readCommand(args: readonly string[]): number {
  const options = readArguments(args, [], ['--json']);
  if ('error' in options) return refuse(options.error);
  const [dir] = options.words;
  if (dir === undefined || options.words.length > 1) return refuse('read wants DIR');
  const folder = folderIn(dir);
  if (typeof folder === 'string') return refuse(folder);
  const { switches, cables, hosts, files } = folder;
  const network = modelNetwork(switches, cables, hosts);
  const findings = placeFindings(judgeNetwork(network).findings, (host) => {
    const own = files.get(host);
    return own && { files: own, dialect: dialectWriting(own)! };
  });
  if (options.on.has('--json')) process.stdout.write(`${JSON.stringify(answersOf(network, findings), null, 2)}\n`);
  else {
    for (const f of findings) process.stdout.write(findingText(f));
    const unsure = network.sessions.filter((s) => sessionDoubt(network, s) !== null).length;
    const up = network.sessions.filter((s) => s.up && sessionDoubt(network, s) === null).length;
    process.stdout.write(
      `${switches.length} switches read, ${up} of ${network.sessions.length} session ends up${unsure === 0 ? '' : `, ${unsure} uncertain`}, ${findings.length} findings\n`,
    );
  }
  return findings.length > 0 ? 1 : 0;
}
