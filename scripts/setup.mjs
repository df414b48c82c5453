// npm run setup: installs what is missing and builds, for a server that something else starts (docs/operations.md).
import { built } from './built.mjs';
import { ready } from './ready.mjs';

await ready();
built();
