import type { SchemaDescription, SchemaObjectDescription, SchemaInnerTypeDescription } from 'yup';

/** A JSON Schema (2020-12) node. */
export type JsonSchema = { readonly [key: string]: unknown };

/** A Yup schema's description as JSON Schema: types, required fields, enumerations, lengths, ranges and patterns. */
export function jsonSchemaOf(description: unknown): JsonSchema {
  const d = description as SchemaDescription & Partial<SchemaObjectDescription> & Partial<SchemaInnerTypeDescription>;
  const out: Record<string, unknown> = {};
  if (d.type === 'object' && d.fields) {
    out['type'] = 'object';
    out['properties'] = Object.fromEntries(Object.entries(d.fields).map(([k, f]) => [k, jsonSchemaOf(f)]));
    const required = Object.entries(d.fields)
      .filter(([, f]) => 'optional' in f && !f.optional && f.default === undefined)
      .map(([k]) => k);
    if (required.length > 0) out['required'] = required;
    out['additionalProperties'] = false;
  } else if (d.type === 'array') {
    out['type'] = 'array';
    if (d.innerType) out['items'] = jsonSchemaOf(Array.isArray(d.innerType) ? d.innerType[0] : d.innerType);
  } else if (d.type === 'mixed' || d.type === 'lazy') out['type'] = 'object';
  else out['type'] = d.nullable ? [d.type, 'null'] : d.type;
  for (const test of d.tests ?? []) {
    const p = (test.params ?? {}) as Record<string, unknown>;
    if (test.name === 'integer') out['type'] = 'integer';
    if (test.name === 'min' && p['min'] !== undefined)
      out[d.type === 'number' ? 'minimum' : d.type === 'array' ? 'minItems' : 'minLength'] = p['min'];
    if (test.name === 'max' && p['max'] !== undefined)
      out[d.type === 'number' ? 'maximum' : d.type === 'array' ? 'maxItems' : 'maxLength'] = p['max'];
    if (test.name === 'matches' && p['regex'] instanceof RegExp) out['pattern'] = p['regex'].source;
  }
  if (d.oneOf && d.oneOf.length > 0) out['enum'] = d.oneOf;
  if (d.default !== undefined && d.type !== 'object') out['default'] = d.default;
  return out;
}
