import { problem, type Finding } from '../finding.ts';
import { braced, strangeIn, wordsIn } from './braces.ts';
import { onceFor } from '../onceFor.ts';

/**
 * What ports of switches say of what is plugged into them. Words stand in braces: of a link between switches `far` (the switch),
 * `port` (its port); of a server `server`, `rack`; of an outside link `system`, `port`. All know their `own` port.
 */
export interface DescriptionSchemes {
  readonly linkDescription: string;
  readonly serverDescription: string;
  readonly outsideDescription: string;
}
export const DEFAULT_DESCRIPTIONS: DescriptionSchemes = {
  linkDescription: '{far} {port}',
  serverDescription: '{server}',
  outsideDescription: '{system} {port}',
};
export type DescriptionKey = keyof DescriptionSchemes;

const WORDS = {
  linkDescription: ['far', 'port', 'own'],
  serverDescription: ['server', 'rack', 'own'],
  outsideDescription: ['system', 'port', 'own'],
} as const satisfies Readonly<Record<DescriptionKey, readonly string[]>>;
type Parts<K extends DescriptionKey> = Readonly<Record<(typeof WORDS)[K][number], string | number>>;

const BRACES = /\{(?<word>[^{}]*)\}/g;

/** Schemes in pieces: what stands there as it is, and words by turns. A fabric has as many descriptions as ports. */
const piecesOf = onceFor((schemes: DescriptionSchemes): Readonly<Record<DescriptionKey, readonly string[]>> => ({
  linkDescription: schemes.linkDescription.split(BRACES),
  serverDescription: schemes.serverDescription.split(BRACES),
  outsideDescription: schemes.outsideDescription.split(BRACES),
}));

/** The description a scheme gives. */
export function describedBy<K extends DescriptionKey>(schemes: DescriptionSchemes, key: K, parts: Parts<K>): string {
  const words = parts as Readonly<Record<string, string | number>>;
  let out = '';
  const pieces = piecesOf(schemes)[key];
  for (let i = 0; i < pieces.length; i++) {
    const piece = pieces[i]!;
    out += i % 2 === 0 ? piece : (words[piece] ?? `{${piece}}`);
  }
  return out;
}

/** Letters a description may have outside of braces: no daemon, shell or template takes one of them for its own. */
export const DESCRIPTION_FORM = /^[A-Za-z0-9{][A-Za-z0-9 .,:;()/_@+{}-]{0,79}$/;

/** What speaks against schemes; paths begin at `/settings`. */
export function checkDescriptions(schemes: DescriptionSchemes): Finding[] {
  return (Object.keys(WORDS) as DescriptionKey[]).flatMap((key) => {
    const scheme = schemes[key];
    const strange = strangeIn(scheme, BRACES, WORDS[key]);
    const refuse = (message: string, cure: string): Finding[] => [
      problem('description-says', `/settings/${key}`, message, cure),
    ];
    if (strange !== null)
      return refuse(`{${strange}} is not known in this description.`, `Write ${braced(WORDS[key])}.`);
    // Servers that are found on a switch are called by it.
    return key === 'serverDescription' && wordsIn(scheme, BRACES).filter((w) => w === 'server').length !== 1
      ? refuse('The name of the server has to stand in it once.', 'Write {server} into it.')
      : [];
  });
}

const literal = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
/** The server that such a description names; null = it is written otherwise. */
export function serverIn(
  { serverDescription }: DescriptionSchemes,
  description: string,
  rack: number,
  own: string,
): string | null {
  const parts = serverDescription.split('{server}').map((part) => {
    const said = part.replace(BRACES, (all, word: string) =>
      word === 'rack' ? String(rack) : word === 'own' ? own : all,
    );
    return literal(said);
  });
  return new RegExp(`^${parts[0]}(\\S+)${parts[1]}$`).exec(description)?.[1] ?? null;
}
