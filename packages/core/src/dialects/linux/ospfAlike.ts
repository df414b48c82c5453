import type { AlikeBlock } from './blocks.ts';
import type { ConfigDraft, OspfPortDraft } from './draft.ts';

/** Blocks of an interface in which OSPF alone is spoken of, of either family. */
const OSPF_ALONE = /^interface \S+\n(?: ip(?: ospf|v6 ospf6) \S.*\n)+$/;

const PARTS = ['ospfPorts', 'ospf6Ports'] as const;
type Part = (typeof PARTS)[number];
const BEGIN: Readonly<Record<Part, string>> = { ospfPorts: '\n ip ospf ', ospf6Ports: '\n ipv6 ospf6 ' };

/** A block of an interface: its name, and of which family of OSPF something was said of it above. */
export interface OspfBlock {
  readonly name: string;
  readonly told: ReadonlySet<Part>;
}
const NOT_TOLD: ReadonlySet<Part> = new Set();
export function toldOfOspf(name: string, draft: ConfigDraft): ReadonlySet<Part> {
  const { ospfPorts, ospf6Ports } = draft;
  return ospfPorts.has(name) || ospf6Ports.has(name)
    ? new Set(PARTS.filter((part) => draft[part].has(name)))
    : NOT_TOLD;
}

/** What interfaces are told of OSPF is mostly the same for a port of that name on every switch. */
export const alikeByOspf: AlikeBlock<OspfBlock> = {
  isNew: ({ told }) => told.size < PARTS.length,
  keep: ({ name, told }, draft, text) => {
    if (!OSPF_ALONE.test(text)) return null;
    const parts = PARTS.filter((part) => text.includes(BEGIN[part]));
    // What was said above counts as well.
    return parts.some((part) => told.has(part))
      ? null
      : Object.fromEntries(parts.map((part) => [part, draft[part].get(name)]));
  },
  take: ({ name, told }, kept: Partial<Record<Part, OspfPortDraft>>, _own, draft) => {
    // Areas come from interfaces or from networks.
    if (draft.ospf && draft.ospf.networks.length > 0) return false;
    for (const part of PARTS) if (kept[part] && told.has(part)) return false;
    for (const part of PARTS) if (kept[part]) draft[part].set(name, { ...kept[part] });
    return true;
  },
};
