import type { ConfigFiles } from '../documents.ts';
import { isMask } from '../../secrets/secretRef.ts';

/** Lines that end in a secret, by file: what stands before it, and the secret. Both programs take them to the end of the line. */
const LINES: Readonly<Record<string, readonly RegExp[]>> = {
  'frr.conf': [
    /^(\s*neighbor \S+ password )(\S.*)$/,
    /^(\s*(?:ip ospf|area \S+ virtual-link \S+) message-digest-key \d+ md5 )(\S.*)$/,
    /^(\s*(?:ip ospf |area \S+ virtual-link \S+ )?authentication-key )(\S.*)$/,
    /^(\s*ip rip authentication string )(\S.*)$/,
    /^(\s*(?:isis |area-|domain-)password (?:clear |md5 ))(\S.*)$/,
    /^(\s*(?:enable )?password (?:8 )?)(\S.*)$/,
    /^(\s*key-string )(\S.*)$/,
    /^(\s*(?:pre-shared-key|ldp md5 password|neighbor \S+ md5) )(\S.*)$/,
    /^(\s*snmp-server community )(\S.*)$/,
  ],
  interfaces: [/^(\s*(?:wpa-psk|wpa-passphrase|wireless-key1?|openvpn-password) )(\S.*)$/],
};
/** Quick look: a file without one of these words holds no such line. */
export const SECRET_HINT = /passw|key|psk|community|authentication|md5/;

/** A place in a text where a secret stands. */
export interface SecretWord {
  readonly file: string;
  /** 1-based. */
  readonly line: number;
  readonly before: string;
  readonly word: string;
}

const onLine = (file: string, line: string): { readonly before: string; readonly word: string } | null => {
  if (!SECRET_HINT.test(line)) return null;
  for (const form of LINES[file] ?? []) {
    const m = form.exec(line);
    if (m) return { before: m[1]!, word: m[2]!.trimEnd() };
  }
  return null;
};

/** A line as it may be shown: without a secret that stands in it in plain words. */
export function withoutSecret(file: string, line: string): string {
  const found = onLine(file, line);
  return found && !isMask(found.word) ? `${found.before}…` : line;
}

/** Every place of a file where a secret stands, masked or not. */
export function secretWords(file: string, text: string): SecretWord[] {
  if (!SECRET_HINT.test(text)) return [];
  return text.split('\n').flatMap((line, i) => {
    const found = onLine(file, line);
    return found ? [{ file, line: i + 1, ...found }] : [];
  });
}

/** Texts with every secret word replaced; masks are passed through `mask` like any other word. */
export function replaceSecretWords(files: ConfigFiles, mask: (word: string) => string): ConfigFiles {
  return Object.fromEntries(
    Object.entries(files).map(([file, text]) => [
      file,
      SECRET_HINT.test(text)
        ? text
            .split('\n')
            .map((line) => {
              const found = onLine(file, line);
              return found ? found.before + mask(found.word) : line;
            })
            .join('\n')
        : text,
    ]),
  );
}

const SAID = /\b(password|md5|key-string|community|authentication-key|psk|passphrase) +(?!sealed:)\S+/gi;
/** What a switch says about a text, with whatever follows a word that a secret follows taken out. */
export const hideSaid = (said: string): string => said.replaceAll(SAID, '$1 …');

/** For showing texts that were read before secrets were masked: what is not a mask becomes unreadable. */
export const veilSecrets = (files: ConfigFiles): ConfigFiles =>
  replaceSecretWords(files, (word) => (isMask(word) ? word : 'sealed:unread'));
