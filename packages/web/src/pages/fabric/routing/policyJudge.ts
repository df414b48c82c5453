import { applyEdit, schemaOfEdit, validate, type Edit, type FabricIntent, type RoutePolicy } from '@anthemion/core';
import { object, ValidationError } from 'yup';

/** A schema that judges what is typed as the server will: the policy it makes, put into the fabric. */
export const judgedAs = <T>(policyOf: (typed: T) => RoutePolicy, intent: FabricIntent) =>
  object().test('policy', '', (typed) => {
    const edit: Edit = { kind: 'putPolicy', policy: policyOf(typed as T) };
    const sound = validate<Edit>(schemaOfEdit('putPolicy'), edit);
    const { findings } = 'findings' in sound ? sound : applyEdit(intent, sound.value);
    if (findings.length === 0) return true;
    return new ValidationError(
      findings.map(
        (f) =>
          new ValidationError(
            f.cure === undefined ? f.message : `${f.message} ${f.cure}`,
            undefined,
            (f.path ?? '').split('/').slice(2).join('.'),
          ),
      ),
    );
  });
