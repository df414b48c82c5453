/** Release of this server, as in the package.json at the root; a test holds the two together. */
export const RELEASE = '0.5.0';
