import { layOut, type FabricIntent, type Layout } from '@anthemion/core';

const laid = new WeakMap<FabricIntent, Layout>();

/** The layout of an intent as it came from the server; every page of a fabric asks for the same one. */
export function layoutOf(intent: FabricIntent): Layout {
  const known = laid.get(intent);
  if (known) return known;
  const layout = layOut(intent);
  laid.set(intent, layout);
  return layout;
}
