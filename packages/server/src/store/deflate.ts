import { deflateSync, inflateSync } from 'node:zlib';

/** Texts as they lie in the store: JSON, deflated; a tenth of the size. */
export const deflateTexts = (json: string): Buffer => deflateSync(json, { level: 6 });
export const inflateTexts = (body: Buffer): string => inflateSync(body).toString('utf8');
