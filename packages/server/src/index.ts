export * from './server.ts';
