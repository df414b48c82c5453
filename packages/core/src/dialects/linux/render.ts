import { Liquid, type Template } from 'liquidjs';
import type { Bridging, SwitchConfig } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import type { Snippet } from '../../intent/intent.ts';
import type { RenderedConfig } from '../dialect.ts';
import { FRR_TEMPLATE, INTERFACES_TEMPLATE } from './templates.ts';

/** Limits for text the team writes: template length, milliseconds, and cells LiquidJS counts as memory. */
const SNIPPET_LIMITS = { parseLimit: 100_000, renderLimit: 250, memoryLimit: 1_000_000 } as const;

const engine = new Liquid({ ownPropertyOnly: true });
const sandbox = new Liquid({ ownPropertyOnly: true, strictFilters: true, strictVariables: true, ...SNIPPET_LIMITS });

/** VLAN lines of a bridged port, as ifupdown2 writes them. */
engine.registerFilter('bridging', (b: Bridging): string => {
  if (b.tagged.length === 0) return b.untagged === undefined ? '' : `\n    bridge-access ${b.untagged}`;
  const vids = `\n    bridge-vids ${b.tagged.join(' ')}`;
  return b.untagged === undefined ? `${vids}\n    bridge-allow-untagged no` : `${vids}\n    bridge-pvid ${b.untagged}`;
});

const TEMPLATES: Readonly<Record<string, Template[]>> = {
  interfaces: engine.parse(INTERFACES_TEMPLATE),
  'frr.conf': engine.parse(FRR_TEMPLATE),
};

function renderSnippet(snippet: Snippet, config: SwitchConfig): string | Finding {
  try {
    const text = String(sandbox.parseAndRenderSync(snippet.text, { switch: config }));
    return `${text.replace(/\s+$/, '')}\n`;
  } catch (error) {
    const said = error instanceof Error ? error.message.split('\n')[0]! : String(error);
    const why = /limit exceeded/.test(said)
      ? `takes more than it may (${said.replace(/^.*?(\w+ \w+ limit exceeded|memory.*limit.*)/, '$1')})`
      : `does not render: ${said}`;
    return {
      rule: 'snippet-renders',
      severity: 'error',
      message: `Snippet ${snippet.name} ${why}.`,
      cure: 'A snippet may run for 250 ms: loop over the switch, not over large ranges; check the names it uses.',
      host: config.hostname,
      path: `/snippets/${snippet.name}/text`,
      subjects: [`snippet:${snippet.name}`],
    };
  }
}

/** SwitchConfig → `interfaces` and `frr.conf`, through the text templates; then the snippets meant for it. */
export function renderLinux(config: SwitchConfig, snippets: readonly Snippet[] = []): RenderedConfig {
  const files: Record<string, string> = {};
  const findings: Finding[] = [];
  for (const [file, template] of Object.entries(TEMPLATES)) files[file] = String(engine.renderSync(template, { c: config }));
  for (const snippet of snippets) {
    const text = renderSnippet(snippet, config);
    if (typeof text === 'string') files[snippet.file] += `${snippet.file === 'interfaces' ? '#' : '!'} snippet ${snippet.name}\n${text}`;
    else findings.push(text);
  }
  return { files, findings };
}

/** Checks a snippet's template by itself, for the form it is typed into. */
export function checkSnippetTemplate(snippet: Snippet, sample: SwitchConfig): Finding | null {
  const result = renderSnippet(snippet, sample);
  return typeof result === 'string' ? null : result;
}
