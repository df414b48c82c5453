import { copyDerivation, deriveConfigs, derivationMemo, type DerivationMemo } from '../config/deriveConfigs.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import type { Dialect, ParsedConfig } from '../dialects/dialect.ts';
import type { ConfigFiles } from '../dialects/documents.ts';
import { seatDialects } from '../dialects/dialects.ts';
import type { Finding } from '../finding.ts';
import { sameContent } from '../numbers/content.ts';
import type { FabricIntent, Snippet } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { carryingCablesOf, type Layout } from '../layout/links.ts';
import { isAmong, type Seat } from '../layout/seats.ts';
import type { Values } from '../pools/drawValues.ts';
import type { Pool } from '../pools/pool.ts';
import type { Leg } from '../network/networkModel.ts';
import type { Cable } from '../network/cablePlan.ts';
import { routersOutside, type RoutersOutside } from './routersOutside.ts';
import { legsOf } from './servers.ts';

/** One switch of a compiled fabric: meant configuration, its text, and what that text reads back as. */
export interface CompiledSwitch {
  readonly seat: Seat;
  readonly dialect: Dialect;
  readonly config: SwitchConfig;
  readonly files: ConfigFiles;
  readonly parsed: ParsedConfig;
  readonly findings: readonly Finding[];
}

export interface CompiledFabric {
  readonly layout: Layout;
  readonly switches: readonly CompiledSwitch[];
  readonly cables: readonly Cable[];
  /** Routers outside and servers that tenants speak to, as they are expected to be; they are nobody’s to configure. */
  readonly outside: RoutersOutside;
  /** What servers are connected for. */
  readonly legs: readonly Leg[];
  /** Seats that could not be configured because values are missing. */
  readonly waiting: readonly string[];
}

/** What was compiled last; lets unchanged switches keep their configuration, their text and what was read from it. */
export interface CompileMemo {
  readonly derivation: DerivationMemo;
  readonly byHost: Map<string, { readonly made: CompiledSwitch; readonly snippets: string }>;
  layout?: Layout;
  outside?: RoutersOutside;
}
export const compileMemo = (): CompileMemo => ({ derivation: derivationMemo(), byHost: new Map() });
/** A memo that starts from what another knows. */
export const copyMemo = (from: CompileMemo): CompileMemo => ({
  derivation: copyDerivation(from.derivation),
  byHost: new Map(from.byHost),
  ...(from.layout ? { layout: from.layout } : {}),
  ...(from.outside ? { outside: from.outside } : {}),
});

const meantFor = (snippets: readonly Snippet[], seat: Seat): Snippet[] => snippets.filter((s) => isAmong(seat, s.on));

/** Intent + values → configurations, text, and the text read back. With a memo, only switches that changed are redone. */
export function compileFabric(
  intent: FabricIntent,
  values: Values,
  pools: readonly Pool[],
  memo?: CompileMemo,
): CompiledFabric {
  const layout = layOut(intent, memo?.layout);
  if (memo) memo.layout = layout;
  const dialectAt = seatDialects(intent.models);
  const configs = deriveConfigs(intent, layout, values, pools, memo?.derivation);
  const switches: CompiledSwitch[] = [];
  for (const seat of layout.seats) {
    const config = configs.get(seat.id);
    if (!config) continue;
    const snippets = meantFor(intent.snippets, seat);
    const dialect = dialectAt(seat);
    const snippetKey = snippets.length === 0 ? '' : JSON.stringify([snippets, intent.secrets]);
    const known = memo?.byHost.get(seat.host);
    if (
      known &&
      known.snippets === snippetKey &&
      known.made.dialect === dialect &&
      sameContent(known.made.config, config) &&
      sameContent(known.made.seat, seat)
    ) {
      switches.push(known.made);
      continue;
    }
    const { files, findings } = dialect.render(config, snippets, intent.secrets);
    const parsed = dialect.parse(files, undefined, memo && (known?.made.parsed ?? null));
    const made = { seat, dialect, config, files, parsed, findings };
    memo?.byHost.set(seat.host, { made, snippets: snippetKey });
    switches.push(made);
  }
  const fresh = routersOutside(intent, layout, configs, values);
  const outside = memo?.outside && sameContent(memo.outside, fresh) ? memo.outside : fresh;
  if (memo) memo.outside = outside;
  return {
    layout,
    switches,
    cables: carryingCablesOf(layout),
    outside,
    legs: legsOf(intent, layout, values),
    waiting: layout.seats.filter((s) => !configs.has(s.id)).map((s) => s.id),
  };
}
