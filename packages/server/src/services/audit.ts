import { addEntry } from '../store/audit.ts';
import { at, type House } from './house.ts';

/** Who asks, as far as it is known. */
export interface Asker {
  /** Empty = nobody is signed in. */
  readonly account: string;
  /** `session`, `token NAME`, `nobody`, `server`. */
  readonly via: string;
  readonly address: string;
}
export interface Asked {
  /** What is asked, such as `POST /api/changes`. */
  readonly action: string;
  readonly fabric: string;
  readonly subject: string;
  readonly detail: string;
}

const LONGEST = 1000;
/** Control characters would forge lines of an export; long texts would fill the disk. */
const clean = (text: string): string => text.replaceAll(/\p{Cc}+/gu, ' ').slice(0, LONGEST);

/**
 * Writes down that something is asked, before it is done: what cannot be written down is not done. Answers the number of the
 * entry, which `ended` refers to.
 */
export const asked = (house: Pick<House, 'db' | 'now'>, who: Asker, what: Asked): Promise<number> =>
  addEntry(house.db, {
    at: at(house),
    kind: 'asked',
    of: null,
    account: clean(who.account),
    via: clean(who.via),
    address: clean(who.address),
    action: clean(what.action),
    fabric: clean(what.fabric),
    subject: clean(what.subject),
    detail: clean(what.detail),
    outcome: '',
  });

/** Writes down how it ended. */
export const ended = (house: Pick<House, 'db' | 'now'>, of: number, outcome: string): Promise<number> =>
  addEntry(house.db, {
    at: at(house),
    kind: 'ended',
    of,
    account: '',
    via: '',
    address: '',
    action: '',
    fabric: '',
    subject: '',
    detail: '',
    outcome: clean(outcome),
  });

/** Writes down what the server does or finds by itself. */
export const noted = (house: Pick<House, 'db' | 'now'>, what: Omit<Asked, 'detail'> & { readonly outcome: string }) =>
  addEntry(house.db, {
    at: at(house),
    kind: 'noted',
    of: null,
    account: 'server',
    via: 'server',
    address: '',
    action: clean(what.action),
    fabric: clean(what.fabric),
    subject: clean(what.subject),
    detail: '',
    outcome: clean(what.outcome),
  });
