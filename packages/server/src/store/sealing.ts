import { fillMasks, isMask, maskOf, replaceSecretWords, type ConfigFiles } from '@anthemion/core';
import { createHmac, randomBytes } from 'node:crypto';
import type { Db, Tx } from './database.ts';
import { keyId, seal, unseal } from './sealingKey.ts';
import { putSetting, settingOf } from './settings.ts';
import { keepSealed, putSealed, sealedOf, sealedValueOf } from './vault.ts';

const DIGEST_KEY = 'digest-key';
const DIGEST_CHARS = 22;
/** A mask written out where it is no mask of ours: somebody typed it on a switch. */
const LITERAL = /(?<![\w:.-])sealed:[\w-]{22}(?![\w-])/g;

/** A secret that should be there and is not, or cannot be opened. */
export class SealTrouble extends Error {}

/** Texts with their secrets in them, and what to hide again from whatever is said about them. */
export interface Opened {
  readonly files: ConfigFiles;
  readonly scrub: (said: string) => string;
}

/**
 * Keeps what is secret: seals and opens with the key of the data folder, and knows the values that stand behind the masks of
 * texts. Values leave it in one place only, `open`, at the moment of sending.
 */
export class Sealing {
  private readonly db: Db;
  private readonly key: Buffer;
  private readonly digestKey: Buffer;
  private readonly now: () => Date;
  private constructor(db: Db, key: Buffer, digestKey: Buffer, now: () => Date) {
    this.db = db;
    this.key = key;
    this.digestKey = digestKey;
    this.now = now;
  }

  /** Opens it on a data folder; the key of the digests is made at the first start and sealed like all else. */
  static async open(db: Db, key: Buffer, now: () => Date): Promise<Sealing> {
    const kept = await sealedOf(db, DIGEST_KEY);
    if (kept !== null) return new Sealing(db, key, Buffer.from(unseal(key, kept), 'base64'), now);
    const fresh = randomBytes(32);
    await db.transaction().execute(async (tx) => {
      await putSealed(tx, DIGEST_KEY, seal(key, fresh.toString('base64')));
      if ((await settingOf(tx, 'sealedWith')) === null) await putSetting(tx, 'sealedWith', keyId(key));
    });
    return new Sealing(db, key, fresh, now);
  }

  seal(text: string): string {
    return seal(this.key, text);
  }
  /** Throws SealTrouble when it was sealed with another key, or is empty. */
  unseal(sealed: string): string {
    try {
      return unseal(this.key, sealed);
    } catch {
      throw new SealTrouble('a stored secret cannot be opened; give it again');
    }
  }

  /** Keyed digest of a value: HMAC-SHA-256, its first 132 bits. */
  digestOf(value: string): string {
    return createHmac('sha256', this.digestKey).update(value).digest('base64url').slice(0, DIGEST_CHARS);
  }

  /** Keeps a value, sealed, and answers its digest. */
  async keep(value: string, tx: Db | Tx = this.db): Promise<string> {
    const digest = this.digestOf(value);
    await keepSealed(tx, digest, this.seal(value), this.now().toISOString());
    return digest;
  }

  /** What a switch runs, as it may be kept and shown: every secret in it sealed, its mask in its place. */
  async mask(files: ConfigFiles): Promise<ConfigFiles> {
    const found = new Map<string, string>();
    const hide = (word: string): string => {
      const mask = maskOf(this.digestOf(word));
      found.set(word, mask);
      return mask;
    };
    // A mask that stands on a switch as such is text like any other: filled in as one of ours it would give a value away.
    const escaped = Object.fromEntries(
      Object.entries(files).map(([file, text]) => [file, text.replaceAll(LITERAL, hide)]),
    );
    const masks = new Set(found.values());
    const masked = replaceSecretWords(escaped, (word) => (isMask(word) && masks.has(word) ? word : hide(word)));
    for (const word of found.keys()) await this.keep(word);
    return masked;
  }

  /** Texts as they are sent. Throws SealTrouble for a secret that is not kept. */
  async open(files: ConfigFiles): Promise<Opened> {
    const values = new Map<string, string>();
    for (const [, digest] of Object.values(files).flatMap((t) => [...t.matchAll(/sealed:([\w-]{22})(?![\w-])/g)])) {
      const sealed = values.has(digest!) ? null : await sealedValueOf(this.db, digest!);
      if (sealed !== null) values.set(digest!, this.unseal(sealed));
    }
    const filled = fillMasks(files, (digest) => {
      const value = values.get(digest);
      if (value === undefined)
        throw new SealTrouble(`the text holds a secret (${digest.slice(0, 6)}…) whose value is not kept here`);
      return value;
    });
    return {
      files: filled,
      scrub: (said) => [...values].reduce((text, [digest, value]) => text.replaceAll(value, maskOf(digest)), said),
    };
  }
}
