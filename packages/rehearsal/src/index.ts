export { generated, folderOf } from './generate.ts';
export { findPrograms, type Programs } from './programs.ts';
export { agrees, onlySwitches, rehearse, type Rehearsed } from './rehearse.ts';
