import { jsonSchemaOf } from '@anthemion/core';
import { ROUTES, type Route } from './routes.ts';

/** The API as an OpenAPI 3.1 document, made from the routes and their schemas. */
export function openApi(): object {
  const paths: Record<string, Record<string, object>> = {};
  for (const [name, route] of Object.entries(ROUTES) as [string, Route][]) {
    const [method = '', path = ''] = name.split(' ');
    const parameters = [
      ...[...path.matchAll(/:(\w+)/g)].map((m) => ({
        name: m[1],
        in: 'path',
        required: true,
        schema: { type: 'string' },
      })),
      ...(route.ifMatch
        ? [{ name: 'If-Match', in: 'header', required: route.ifMatch === 'must', schema: { type: 'string' } }]
        : []),
      ...(route.paged
        ? [
            { name: 'limit', in: 'query', required: false, schema: { type: 'integer', minimum: 1, maximum: 1000 } },
            { name: 'after', in: 'query', required: false, schema: { type: 'string' } },
          ]
        : []),
    ];
    const key = path.replaceAll(/:(\w+)/g, '{$1}');
    paths[key] = {
      ...paths[key],
      [method.toLowerCase()]: {
        summary: route.summary,
        description: `Access: ${route.access}`,
        parameters,
        ...(route.body
          ? {
              requestBody: {
                required: true,
                content: { 'application/json': { schema: jsonSchemaOf(route.body.describe()) } },
              },
            }
          : {}),
        responses: {
          200: { description: 'Done' },
          ...(route.access === 'anyone'
            ? {}
            : { 401: { description: 'Not signed in' }, 403: { description: 'Not allowed' } }),
          ...(route.ifMatch ? { 412: { description: 'Somebody was faster' } } : {}),
          ...(route.ifMatch === 'must' ? { 428: { description: 'If-Match is missing' } } : {}),
          ...(route.body
            ? { 422: { description: 'Problem details (RFC 9457) with findings that point to the fields' } }
            : {}),
        },
      },
    };
  }
  return { openapi: '3.1.0', info: { title: 'Anthemion', version: '1' }, paths };
}
