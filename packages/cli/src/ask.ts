import {
  ask,
  dialectWriting,
  differing,
  modelNetwork,
  networkDifferences,
  readQuestion,
  withLines,
  type Answer,
  type Because,
  type DifferenceRow,
  type NetworkModel,
  type SwitchFolder,
} from '@anthemion/core';
import { folderIn } from './folder.ts';
import { readArguments, refuse } from './usage.ts';

const modelOf = ({ switches, cables, hosts }: SwitchFolder): NetworkModel => modelNetwork(switches, cables, hosts);
const say = (text: string): void => void process.stdout.write(`${text}\n`);

/** `ask DIR QUESTION …`: one question to the network that the texts of a folder would make. */
export function askCommand(args: readonly string[]): number {
  const options = readArguments(args, [], ['--json']);
  if ('error' in options) return refuse(options.error);
  const [dir, ...words] = options.words;
  if (dir === undefined) return refuse('ask wants DIR and a question');
  const folder = folderIn(dir);
  if (typeof folder === 'string') return refuse(folder);
  const json = options.on.has('--json');
  if (words[0] === 'differs') return differs(folder, words.slice(1), json);
  const question = readQuestion(words);
  if (typeof question === 'string') return refuse(question);
  const found = ask(modelOf(folder), question);
  if (typeof found === 'string') return refuse(found);
  const answer = withLines(found, (host) => {
    const files = folder.files.get(host);
    return files && { files, dialect: dialectWriting(files)! };
  });
  if (json) say(JSON.stringify(answer, null, 2));
  else tell(answer);
  return isPlainYes(answer) ? 0 : 1;
}

/** Is everything certain, and does what is asked about arrive? */
function isPlainYes(answer: Answer): boolean {
  switch (answer.ask) {
    case 'routes':
      return answer.routes.length > 0 && answer.missing === null && answer.routes.every((r) => r.unsure === null);
    case 'reach':
      return answer.ok && answer.unsure === null;
    case 'differs':
      return answer.total === 0;
    case 'evpn':
      return answer.total > 0 && answer.routes.every((r) => r.unsure === null);
    default:
      return answer.hearings.every((h) => h.unsure === null && h.deafTo.length === 0);
  }
}

const lineText = ({ words, place }: Because): string =>
  place ? `${place.host}/${place.file}:${place.line}: ${words}` : words;
/** Chains are long where many share a load; the first few say it. */
const MOST_LINES = 8;
function tellBecause(because: readonly Because[]): void {
  for (const b of because.slice(0, MOST_LINES)) say(`    ${lineText(b)}`);
  if (because.length > MOST_LINES) say(`    and more like it: ${because.length - MOST_LINES}`);
}
const tellUnsure = (unsure: string | null): void => {
  if (unsure !== null) say(`  uncertain: ${unsure}`);
};

function tell(answer: Answer): void {
  switch (answer.ask) {
    case 'routes':
      if (answer.routes.length === 0) say('there is no route');
      for (const r of answer.routes) {
        say(`${r.prefix} ${r.kind}`);
        for (const w of r.ways) {
          const path = w.path.length > 0 ? `, path ${w.path.join(' ')}` : '';
          say(`  over ${w.over}${w.to === null ? '' : ` to ${w.to}`}${path}${w.said.map((s) => `, ${s}`).join('')}`);
        }
        tellUnsure(r.unsure);
        tellBecause(r.because);
      }
      if (answer.missing !== null) say(`there may be others: ${answer.missing}`);
      break;
    case 'reach':
      for (const way of answer.ways) {
        say(`${way.from} to ${way.to}: ${way.arrives ? 'arrives' : 'does not arrive'}`);
        for (const hop of way.hops) {
          say(`  ${hop.at.join(', ')}: ${hop.does}`);
          tellBecause(hop.because);
        }
      }
      tellUnsure(answer.unsure);
      break;
    case 'evpn':
      for (const r of answer.routes) {
        const to = r.into.length > 0 ? `into ${r.into.join(' and ')}` : `not used: ${r.why}`;
        say(`type ${r.type} ${r.about}, RD ${r.rd ?? 'made up'}, from ${r.from} by ${r.vtep ?? 'no VTEP'}: ${to}`);
        tellUnsure(r.unsure);
      }
      say(`${answer.total} routes of EVPN`);
      break;
    case 'differs':
      for (const row of answer.rows) say(rowText(row));
      say(`${answer.total} answers differ`);
      break;
    default:
      for (const h of answer.hearings) {
        say(`${h.host}: ${h.hears.join('; ') || 'nothing'}`);
        for (const d of h.deafTo) say(`  not ${d.host}: ${lineText(d.because)}`);
        tellUnsure(h.unsure);
      }
  }
}

const rowText = ({ about, was, is }: DifferenceRow): string => `${about}: ${was || 'none'} → ${is || 'none'}`;

/** `ask DIR differs OTHER`: what the switches of another folder would answer otherwise. */
function differs(folder: SwitchFolder, words: readonly string[], json: boolean): number {
  const [other] = words;
  if (other === undefined || words.length > 1) return refuse('differs wants another folder');
  const second = folderIn(other);
  if (typeof second === 'string') return refuse(second);
  const answer = differing(networkDifferences(modelOf(folder), modelOf(second)));
  if (json) say(JSON.stringify(answer, null, 2));
  else tell(answer);
  return isPlainYes(answer) ? 0 : 1;
}
