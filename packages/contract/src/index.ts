export * from './access.ts';
export * from './accessAnswers.ts';
export * from './answers.ts';
export * from './liveAnswers.ts';
export * from './shape.ts';
export * from './requests.ts';
export * from './routes.ts';
export * from './openapi.ts';
