/** Bundles the programs, with what they need beside them, into a folder below the project. */
export function bundle(outdir: string): Promise<void>;
