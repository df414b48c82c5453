import { intentFileSchema, jsonSchemaOf } from '@anthemion/core';

/** `schema`: the JSON Schema of the intent file, as it stands in docs/intent.schema.json. */
export function schemaCommand(): number {
  const schema = {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Anthemion intent file, format 1',
    ...jsonSchemaOf(intentFileSchema.describe()),
  };
  process.stdout.write(`${JSON.stringify(schema, null, 2)}\n`);
  return 0;
}
