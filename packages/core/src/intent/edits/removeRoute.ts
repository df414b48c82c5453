import { string } from 'yup';
import { objectOf } from '../collections/index.ts';
import { routes } from '../collections/routes.ts';
import { routeKey, type TenantRoute } from '../intent.ts';
import { shortName } from '../schemas/words.ts';
import { done, editFields, missing, refuse, type EditKindOf } from './edit.ts';

/** Takes a static route of a tenant away. */
export interface RemoveRoute extends Pick<TenantRoute, 'vrf' | 'prefix' | 'via'> {
  readonly kind: 'removeRoute';
}

export const removeRoute: EditKindOf<RemoveRoute> = {
  kind: 'removeRoute',
  schema: editFields('removeRoute', {
    vrf: shortName('The VRF'),
    prefix: string().max(45).required('the prefix is missing'),
    via: string().max(45),
  }),
  apply: (intent, edit) =>
    objectOf(intent, 'route', routeKey(edit))
      ? done(routes.take(intent, routeKey(edit)))
      : refuse(intent, missing('static route to', `${edit.prefix} in ${edit.vrf}`)),
  sentence: ({ vrf, prefix, via }) =>
    `Remove the static route of ${vrf} to ${prefix}${via === undefined ? '' : ` by ${via}`}`,
  subjects: (edit) => [`route:${routeKey(edit)}`],
  makes: {
    of: 'route',
    remove: (_key, { vrf, prefix, via }) => ({
      kind: 'removeRoute',
      vrf,
      prefix,
      ...(via === undefined ? {} : { via }),
    }),
  },
};
