import { linux, modelNetwork } from '@anthemion/core';
import { compare } from './compare.ts';
import { ledByOspf } from './generate.ts';
import { Lab } from './lab.ts';
import { findPrograms } from './programs.ts';
const [count, seed, which] = process.argv.slice(2).map(Number);
const folder = ledByOspf(count!, seed!)[which!]!;
const asks = process.argv.slice(5);
console.log(folder.cables.map((c) => `${c.a.host} ${c.a.port} - ${c.b.host} ${c.b.port}`).join('\n'));
const lab = new Lab(folder, (findPrograms as any)());
try {
  await lab.up();
  const r = await compare(folder, lab, 40);
  console.log(JSON.stringify(r.compared), r.settledAfter);
  for (const d of r.differences) console.log('   ', d.host, d.about, '| model', d.model, '| daemon', d.daemon);
  for (const a of asks) { const [h, q] = a.split('|'); console.log('##', h, q, '\n' + await lab.ask(h!, q!)); }
} finally { lab.down(); }
process.exit(0);
