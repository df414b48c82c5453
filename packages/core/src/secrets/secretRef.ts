import type { ConfigFiles } from '../dialects/documents.ts';

/**
 * A secret as intent, texts and answers know it: a name people gave it, and the keyed digest of its value. Two values are the
 * same exactly when their digests are; the value itself is sealed on the server and put in at the moment of sending only.
 */
export interface SecretRef {
  readonly name: string;
  /** HMAC-SHA-256 of the value, its first 132 bits, base64url: 22 characters. */
  readonly digest: string;
}

export const SECRET_DIGEST = /^[\w-]{22}$/;

/** What stands in a text in the place of a secret: one word, which says which value and nothing of it. */
export const maskOf = (digest: string): string => `sealed:${digest}`;

const MASK = /(?<![\w:.-])sealed:([\w-]{22})(?![\w-])/g;
export const isMask = (word: string): boolean => /^sealed:[\w-]{22}$/.test(word);

/** Digests of the secrets that texts hold, each once. */
export function masksIn(files: ConfigFiles): string[] {
  const out = new Set<string>();
  for (const text of Object.values(files)) for (const m of text.matchAll(MASK)) out.add(m[1]!);
  return [...out];
}

/** A text without its masks, in which none can hide: what is left of one stands for a mask that is not in its place. */
export const holdsMask = (text: string): boolean => MASK_HINT.test(text);
/** What stands in every mask. */
export const MASK_HINT = /sealed:/;

/** Texts with the real values in the place of their masks; `valueOf` throws for a secret it does not have. */
export function fillMasks(files: ConfigFiles, valueOf: (digest: string) => string): ConfigFiles {
  return Object.fromEntries(
    Object.entries(files).map(([file, text]) => [file, text.replaceAll(MASK, (_m, digest: string) => valueOf(digest))]),
  );
}
