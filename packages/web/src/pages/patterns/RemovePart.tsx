import { api, notTaken } from '../../app/api.ts';
import { RemoveButton } from '../../parts/RemoveButton.tsx';

const WORDS = { models: 'switch model', 'rack-patterns': 'rack pattern', 'fabric-patterns': 'fabric pattern' } as const;

/** Takes a model or a pattern away that nothing names. */
export function RemovePart({
  of,
  name,
  onGone,
}: {
  readonly of: keyof typeof WORDS;
  readonly name: string;
  readonly onGone: () => void;
}) {
  const [remove] = api.useRemovePartMutation();
  return (
    <RemoveButton
      what={`${WORDS[of]} ${name}`}
      means="Fabrics that were laid with it have their own copy, and stay as they are. It is refused while something else here names it."
      remove={async () => notTaken(await remove({ of, name }))}
      onGone={onGone}
    />
  );
}
