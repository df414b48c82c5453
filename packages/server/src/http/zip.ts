import type { Response } from 'express';
import { strToU8, zipSync } from 'fflate';

/**
 * Answers with files as one archive.
 * @param files path → text
 */
export function sendZip(response: Response, name: string, files: ReadonlyMap<string, string>, at: Date): void {
  const entries = Object.fromEntries([...files].map(([path, text]) => [path, strToU8(text)]));
  response
    .type('application/zip')
    .attachment(`${name}.zip`)
    .send(Buffer.from(zipSync(entries, { mtime: at, level: 6 })));
}
