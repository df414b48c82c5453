import { generateKeyPairSync } from 'node:crypto';
import ssh2 from 'ssh2';

/**
 * A key of a switch or of an account, as text of PEM, made by Node: of those that ssh2 makes by itself (`ed25519`),
 * about one in 280 cannot be read again.
 */
export const privateKeyText = (): string =>
  generateKeyPairSync('ec', { namedCurve: 'P-256' }).privateKey.export({ type: 'sec1', format: 'pem' }) as string;

/** Its public half, as a line of `authorized_keys`. */
export function publicLine(privateKey: string): string {
  const key = ssh2.utils.parseKey(privateKey);
  if (key instanceof Error) throw key;
  return `${key.type} ${key.getPublicSSH().toString('base64')}`;
}
