import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';

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
