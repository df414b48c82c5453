import { Liquid } from 'liquidjs';
import type { SwitchConfig } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import type { Snippet } from '../../intent/intent.ts';
import { maskOf, masksIn, type SecretRef } from '../../secrets/secretRef.ts';
import { bridgeMembers, bridgeName, lagName, sviName, vxlanName } from './names.ts';
import { guardText } from './textGuard.ts';

/** Limits for text the team writes: template length, milliseconds, and cells LiquidJS counts as memory. */
const SNIPPET_LIMITS = { parseLimit: 100_000, renderLimit: 250, memoryLimit: 1_000_000 } as const;
/** Templates in memory only, of which there are none: no tag can reach a file. */
const sandbox = new Liquid({
  ownPropertyOnly: true,
  strictFilters: true,
  strictVariables: true,
  templates: {},
  ...SNIPPET_LIMITS,
});
/** Tags that bring in other templates are not there at all. */
for (const tag of ['include', 'render', 'layout', 'block']) delete sandbox.tags[tag];

const GUARD_RULES = {
  refused: 'text-refused',
  'runs elsewhere': 'text-runs-elsewhere',
  'secret in plain': 'secret-in-plain',
  'secret misplaced': 'secret-misplaced',
} as const;
const GUARD_CURES = {
  refused: 'Take it out.',
  'runs elsewhere': 'Take it out, or have it put by somebody with the role scripter, who may allow it.',
  'secret in plain': 'Keep it under Secrets, and write {{ secrets.its-name }} here.',
  'secret misplaced':
    'Write {{ secrets.its-name }} only where a password or key stands, such as after neighbor … password.',
} as const;

/** What keeps a snippet's text from a switch, or null. */
function snippetGuard(snippet: Snippet, text: string, host: string, secrets: readonly SecretRef[]): Finding | null {
  const bad = guardText(snippet.file, text).find((l) => l.kind !== 'runs elsewhere' || snippet.runsElsewhere !== true);
  const strange = masksIn({ [snippet.file]: text }).find((d) => !secrets.some((s) => s.digest === d));
  if (!bad && strange !== undefined)
    return {
      rule: 'secret-known',
      severity: 'error',
      message: `Snippet ${snippet.name} writes a secret (${strange.slice(0, 6)}…) that the fabric does not use.`,
      cure: 'Take the secret up in the fabric, and write {{ secrets.its-name }}.',
      host,
      path: `/snippets/${snippet.name}/text`,
      subjects: [`snippet:${snippet.name}`],
    };
  if (!bad) return null;
  return {
    rule: GUARD_RULES[bad.kind],
    severity: 'error',
    message: `Line ${bad.line} of snippet ${snippet.name}, “${bad.text}”, ${bad.why}.`,
    cure: GUARD_CURES[bad.kind],
    host,
    path: `/snippets/${snippet.name}/text`,
    subjects: [`snippet:${snippet.name}`],
  };
}

/** A switch as a snippet sees it: what the dialect names has its name. */
const named = (c: SwitchConfig): object => ({
  ...c,
  lags: c.lags.map((l) => ({ ...l, name: lagName(l) })),
  vxlans: c.vxlans.map((v) => ({ ...v, name: vxlanName(v) })),
  svis: c.svis.map((s) => ({ ...s, name: sviName(s) })),
  ...(c.bridge ? { bridge: { ...c.bridge, name: bridgeName(c.bridge), members: bridgeMembers(c.bridge) } } : {}),
});

/** The text of a snippet on a switch, or what keeps it from there. */
export function renderSnippet(snippet: Snippet, config: SwitchConfig, secrets: readonly SecretRef[]): string | Finding {
  try {
    const masks = Object.fromEntries(secrets.map((s) => [s.name, maskOf(s.digest)]));
    const text = `${String(sandbox.parseAndRenderSync(snippet.text, { switch: named(config), secrets: masks })).trimEnd()}\n`;
    return snippetGuard(snippet, text, config.hostname, secrets) ?? text;
  } catch (error) {
    const said = error instanceof Error ? error.message.split('\n')[0]! : String(error);
    const why = /limit exceeded/.test(said) ? `takes more than it may (${said})` : `does not render: ${said}`;
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

/** Checks a snippet's template by itself, for the form it is typed into. */
export function checkSnippetTemplate(
  snippet: Snippet,
  sample: SwitchConfig,
  secrets: readonly SecretRef[] = [],
): Finding | null {
  const result = renderSnippet(snippet, sample, secrets);
  return typeof result === 'string' ? null : result;
}
