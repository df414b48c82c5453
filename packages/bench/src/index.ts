export * from './fleet.ts';
export * from './bench.ts';
export * from './demoFleet.ts';
