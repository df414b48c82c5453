import type { HereRequest, PresentPerson } from '@anthemion/contract';
import type { House } from '../services/house.ts';

/** Who has not said so again within this is not here any more, milliseconds. */
const FORGOTTEN_MS = 60_000;

interface Present extends PresentPerson {
  readonly seenAt: number;
}

/** Who looks at what now. Kept in memory only: it is about this moment. */
export class Presence {
  private readonly house: House;
  /** By session: somebody may have two browsers open. */
  private readonly people = new Map<string, Present>();
  constructor(house: House) {
    this.house = house;
  }

  /** Somebody says what they look at; others who look at the same fabric are told when that is new. */
  say(session: string, person: { readonly name: string; readonly fullName: string }, here: HereRequest): void {
    this.forgetOld();
    const before = this.people.get(session);
    const same = before?.fabric === here.fabric && before.change === here.change && before.at === here.at;
    this.people.set(session, {
      account: person.name,
      fullName: person.fullName,
      ...here,
      since: same ? before.since : this.house.now().toISOString(),
      seenAt: performance.now(),
    });
    if (same) return;
    for (const fabric of new Set([before?.fabric ?? '', here.fabric]))
      if (fabric !== '') this.house.events.tell('here', fabric);
  }

  leave(session: string): void {
    const was = this.people.get(session);
    this.people.delete(session);
    if (was && was.fabric !== '') this.house.events.tell('here', was.fabric);
  }

  /** Everybody who looks at a fabric now, once each, but one's own sessions. */
  at(fabric: string, but: string): PresentPerson[] {
    this.forgetOld();
    return [...this.people.values()]
      .filter((p) => p.fabric === fabric && p.account !== but)
      .sort((a, b) => (a.fullName < b.fullName ? -1 : 1))
      .map(({ seenAt: _, ...p }) => p);
  }

  private forgetOld(): void {
    const limit = performance.now() - FORGOTTEN_MS;
    for (const [session, p] of this.people) if (p.seenAt < limit) this.leave(session);
  }
}
