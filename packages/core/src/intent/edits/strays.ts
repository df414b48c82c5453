import { layOut } from '../../layout/layout.ts';
import type { FabricIntent } from '../intent.ts';

/** An intent without what is said of links and seats that an edit took away: then none comes back shut or drained. */
export function withoutStrays(before: FabricIntent, intent: FabricIntent): FabricIntent {
  if (intent.shutLinks.length === 0 && intent.drained.length === 0) return intent;
  const layout = layOut(intent);
  // Where the seats are the very same, so are the links between them.
  if (layOut(before).seats === layout.seats) return intent;
  const ids = new Set(layout.links.map((l) => l.id));
  const shutLinks = intent.shutLinks.filter((l) => ids.has(l.link));
  const drained = intent.drained.filter((d) => layout.seatById.has(d.seat));
  return shutLinks.length === intent.shutLinks.length && drained.length === intent.drained.length
    ? intent
    : { ...intent, shutLinks, drained };
}
