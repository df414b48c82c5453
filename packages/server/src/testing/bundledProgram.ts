import { join } from 'node:path';

/** A program of the server as tests run it with Node: `server`, or `keep` with its words. Made by `bundled.ts`. */
export const bundled = (name: 'server' | 'keep'): string => join(process.env['ANTHEMION_BUNDLED']!, `${name}.js`);
