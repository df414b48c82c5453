import { changeSentence } from '../collections/sentences.ts';
import { snippets } from '../collections/texts.ts';
import type { Snippet } from '../intent.ts';
import { snippetSchema } from '../schemas/objects.ts';
import { done, editFields, type EditKindOf } from './edit.ts';

/** Writes a snippet, a new one or the one of that name anew. */
export interface PutSnippet {
  readonly kind: 'putSnippet';
  readonly snippet: Snippet;
}

export const putSnippet: EditKindOf<PutSnippet> = {
  kind: 'putSnippet',
  schema: editFields('putSnippet', { snippet: snippetSchema }),
  apply: (intent, { snippet }) => done(snippets.put(intent, snippet.name, snippet)),
  sentence: ({ snippet }, before) =>
    before?.snippets.some((s) => s.name === snippet.name)
      ? changeSentence(before, 'snippet', snippet.name, snippet)
      : `Put snippet ${snippet.name} on ${snippet.on === 'all' ? 'all switches' : snippet.on}`,
  subjects: ({ snippet }) => [`snippet:${snippet.name}`],
  makes: {
    of: 'snippet',
    add: (snippet) => ({ kind: 'putSnippet', snippet }),
    change: (snippet) => ({ kind: 'putSnippet', snippet }),
  },
};
