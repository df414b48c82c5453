import { describe, expect, test } from 'vitest';
import { accountRequest, changeRequest, editsRequest, openApi, rolloutRequest, ROUTES, validateBody } from './index.ts';

describe('contract', () => {
  test('OpenAPI describes every route, with its access and its body', () => {
    const { paths } = openApi() as {
      paths: Record<string, Record<string, { description: string; requestBody?: object }>>;
    };
    for (const [name, route] of Object.entries(ROUTES)) {
      const [method = '', path = ''] = name.split(' ');
      const found = paths[path.replaceAll(/:(\w+)/g, '{$1}')]?.[method.toLowerCase()];
      expect(found?.description, name).toBe(`Access: ${route.access}`);
      expect(found?.requestBody !== undefined, name).toBe('body' in route);
    }
  });
  test('OpenAPI says where a version must be sent, and which lists come in pages', () => {
    const { paths } = openApi() as {
      paths: Record<string, Record<string, { parameters: { name: string; required: boolean }[]; responses: object }>>;
    };
    for (const [name, route] of Object.entries(ROUTES)) {
      const [method = '', path = ''] = name.split(' ');
      const { parameters, responses } = paths[path.replaceAll(/:(\w+)/g, '{$1}')]![method.toLowerCase()]!;
      const version = parameters.find((p) => p.name === 'If-Match');
      expect([name, version?.required]).toEqual([name, 'ifMatch' in route ? route.ifMatch === 'must' : undefined]);
      expect('428' in responses).toBe('ifMatch' in route && route.ifMatch === 'must');
      expect(parameters.some((p) => p.name === 'after')).toBe('paged' in route);
    }
  });
  test('whatever changes something takes a role or a session', () => {
    const open = Object.entries(ROUTES).filter(([name, r]) => r.access === 'anyone' && !name.startsWith('GET '));
    expect(open.map(([name]) => name)).toEqual(['POST /api/session', 'POST /api/first-account']);
  });
  test.each([
    [accountRequest, { name: 'X', fullName: 'A B', password: 'long enough' }, '/name'],
    [accountRequest, { name: 'xy', fullName: 'A B', password: 'short' }, '/password'],
    [accountRequest, { name: 'xy', fullName: 'A B', password: 'long enough', roles: ['king'] }, '/roles/0'],
    [changeRequest, { fabric: 'skerry', title: 'x' }, '/title'],
    [changeRequest, { fabric: 'skerry', title: 'fine', ticket: '<b>' }, '/ticket'],
    [rolloutRequest, { change: 'c', undoSeconds: 1 }, '/undoSeconds'],
    [rolloutRequest, { change: 'c', stopLine: 0 }, '/stopLine'],
    [editsRequest, { edits: [] }, '/edits'],
    [
      editsRequest,
      {
        edits: [
          { kind: 'setSpines', count: 2 },
          { kind: 'setSpines', count: 0 },
        ],
      },
      '/edits/1/count',
    ],
    [
      editsRequest,
      {
        edits: [
          { kind: 'connectServer', port: { rack: 1, side: 'a', port: 'p1', server: 'x\nneighbor evil', tagged: [] } },
        ],
      },
      '/edits/0/port/server',
    ],
    [editsRequest, { edits: [{ kind: 'placeRack', number: 1, place: 'hall\n!' }] }, '/edits/0/place'],
  ])('a wrong body is pointed to: %#', (schema, body, path) => {
    const checked = validateBody(schema, body);
    expect('findings' in checked ? checked.findings.map((f) => f.path) : []).toContain(path);
  });
  test('defaults are filled in', () => {
    expect(validateBody(rolloutRequest, { change: 'c' })).toEqual({
      value: { change: 'c', stopLine: 1, undoSeconds: 60, breakIn: false, reason: '' },
    });
  });
});
