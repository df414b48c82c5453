import { describe, expect, test } from 'vitest';
import fc from 'fast-check';
import {
  accountRequest,
  changeRequest,
  checkShape,
  editsRequest,
  firstAccountRequest,
  mayCall,
  openApi,
  PLAIN_BODY,
  ROLES,
  rolloutRequest,
  ROUTES,
  secretRequest,
  sightOf,
  sees,
  switchAccountRequest,
  tokenRequest,
  validateBody,
  type User,
} from './index.ts';

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
    [accountRequest, { name: 'X', fullName: 'A B' }, '/name'],
    [accountRequest, { name: 'xy', fullName: 'A B', bound: { skerry: ['king'] } }, '/bound'],
    [accountRequest, { name: 'xy', fullName: 'A B', roles: ['king'] }, '/roles/0'],
    [firstAccountRequest, { code: 'c', name: 'xy', fullName: 'A B', password: 'short' }, '/password'],
    [tokenRequest, { name: 'nightly', days: 4000 }, '/days'],
    [tokenRequest, { name: {}, days: 1 }, '/name'],
    [switchAccountRequest, { username: 'x', ranges: ['everywhere'] }, '/ranges/0'],
    [secretRequest, { value: 'two words' }, '/value'],
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
  test.each([
    ['deep', JSON.parse('['.repeat(13) + ']'.repeat(13))],
    ['very deep', JSON.parse('['.repeat(100_000) + ']'.repeat(100_000))],
    ['long', Array.from({ length: 5001 }, () => 0)],
    ['a field every object has', JSON.parse('{"edits": [{"constructor": {}}]}')],
    ['a field that reaches the prototype', JSON.parse('{"__proto__": {}}')],
    ['a field whose name is a book', { ['x'.repeat(101)]: 1 }],
  ])('the build of a body is refused whatever it says: %s', (_what, body) => {
    expect(checkShape(body, PLAIN_BODY)).toMatchObject({ rule: 'body-shape' });
  });
  test('the build of what people send is fine', () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 5 }), (body) => {
        const text = JSON.stringify(body);
        if (
          !/"(constructor|toString|valueOf|__\w+__|hasOwnProperty|isPrototypeOf|propertyIsEnumerable|toLocaleString)":/.test(
            text,
          )
        )
          expect(checkShape(JSON.parse(text), PLAIN_BODY)).toBeNull();
      }),
    );
  });
  test('what is wrong with a body is said briefly, however much of it is wrong', () => {
    const bad = { edits: Array.from({ length: 1500 }, () => ({ kind: 'setSpines', count: -1, ['y'.repeat(90)]: 1 })) };
    const checked = validateBody(editsRequest, bad);
    expect('findings' in checked && checked.findings.length).toBeGreaterThan(0);
    expect(JSON.stringify(checked).length).toBeLessThan(32_000);
  });
  test('promise 9: a role counts on the fabric it is bound to, and on what concerns all fabrics only if it holds everywhere', () => {
    const roles = fc.uniqueArray(fc.constantFrom(...ROLES));
    fc.assert(
      fc.property(roles, roles, roles, fc.boolean(), (everywhere, onOwn, onThird, admin) => {
        const user: User = {
          name: 'x',
          fullName: 'X',
          roles: everywhere,
          bound: { own: onOwn, third: onThird },
          admin,
        };
        for (const role of ROLES) {
          expect(mayCall(user, role, null)).toBe(everywhere.includes(role));
          expect(mayCall(user, role, 'own')).toBe(everywhere.includes(role) || onOwn.includes(role));
          expect(mayCall(user, role, 'other')).toBe(everywhere.includes(role));
          expect(mayCall(user, role, 'toString')).toBe(everywhere.includes(role));
        }
        expect(mayCall(user, 'admin', null)).toBe(admin);
        expect(sees(user, 'other')).toBe(everywhere.length > 0);
        expect(sees(user, 'own')).toBe(everywhere.length + onOwn.length > 0);
        expect(sightOf(user) === null).toBe(everywhere.length > 0);
        expect(mayCall(user, 'any role', null)).toBe(everywhere.length + onOwn.length + onThird.length > 0);
      }),
    );
  });
  test('defaults are filled in', () => {
    expect(validateBody(rolloutRequest, { change: 'c' })).toEqual({
      value: { change: 'c', stopLine: 1, undoSeconds: 60, together: false, breakIn: false, reason: '' },
    });
  });
});
