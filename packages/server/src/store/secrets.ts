import { createCipheriv, createDecipheriv, randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** The key of this installation, made at the first start, readable by its owner only. */
export function loadKey(data: string, name: string): Buffer {
  const path = join(data, `${name}.key`);
  if (!existsSync(path)) {
    mkdirSync(data, { recursive: true });
    writeFileSync(path, randomBytes(32).toString('base64'), { mode: 0o600, flag: 'wx' });
  }
  return Buffer.from(readFileSync(path, 'utf8'), 'base64');
}

/** AES-256-GCM: nonce, tag and text, base64 with dots between. */
export function seal(key: Buffer, text: string): string {
  const nonce = randomBytes(12);
  const cipher = createCipheriv('aes-256-gcm', key, nonce);
  const body = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
  return [nonce, cipher.getAuthTag(), body].map((b) => b.toString('base64')).join('.');
}

export function unseal(key: Buffer, sealed: string): string {
  const [nonce, tag, body] = sealed.split('.').map((p) => Buffer.from(p, 'base64'));
  const decipher = createDecipheriv('aes-256-gcm', key, nonce!);
  decipher.setAuthTag(tag!);
  return Buffer.concat([decipher.update(body!), decipher.final()]).toString('utf8');
}

/** scrypt with N = 2¹⁵, r = 8, p = 1 (32 MiB a try). */
const COST = { N: 2 ** 15, r: 8, p: 1, maxmem: 64 * 1024 * 1024 } as const;
const derive = (password: string, salt: Buffer): Promise<Buffer> =>
  new Promise((done, fail) => scrypt(password, salt, 32, COST, (error, key) => (error ? fail(error) : done(key))));

export async function hashPassword(password: string): Promise<{ salt: string; hash: string }> {
  const salt = randomBytes(16);
  return { salt: salt.toString('base64'), hash: (await derive(password, salt)).toString('base64') };
}

export async function passwordMatches(
  password: string,
  stored: { readonly salt: string; readonly hash: string },
): Promise<boolean> {
  return timingSafeEqual(
    await derive(password, Buffer.from(stored.salt, 'base64')),
    Buffer.from(stored.hash, 'base64'),
  );
}
