import { skipToken } from '@reduxjs/toolkit/query';
import { useState, type FormEvent } from 'react';
import { useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { Button, Cap, Row, Waiting } from '../parts/basics.tsx';
import { TextInput } from '../parts/fields.tsx';
import { Answered, AnswerView, type Shown } from './AnswerView.tsx';
import { api, problemOf } from './api.ts';

/** Asks the network model of a fabric one question at a time, live or as a change would have it. */
export function AskNetwork({ fabric, change, seatOf }: Shown & { readonly change: string | null }) {
  const [params, setParams] = useSearchParams();
  const asked = params.get('ask');
  const [words, setWords] = useState(asked ?? '');
  const query = api.useAskNetworkQuery(asked === null ? skipToken : { name: fabric, change, question: asked });
  const put = (question: string): void => {
    setWords(question);
    const next = new URLSearchParams(params);
    if (question.trim() === '') next.delete('ask');
    else next.set('ask', question.trim());
    setParams(next, { replace: true });
    // The same again: what failed may work by now.
    if (question.trim() === asked && query.isError) void query.refetch();
  };
  const [host = 'SWITCH'] = seatOf.keys();
  return (
    <section aria-label="Ask the network">
      <Cap>Ask the network</Cap>
      <Asking
        onSubmit={(e: FormEvent) => {
          e.preventDefault();
          put(words);
        }}
      >
        <TextInput
          label="Question"
          code
          value={words}
          onChange={setWords}
          placeholder="reach SERVER SERVER"
          hint="routes SWITCH [in VRF] [to ADDRESS] · reach SERVER SERVER [tcp PORT] [size BYTES] · hears PREFIX · hears vni NUMBER · evpn SWITCH"
          {...(query.isError && asked === words.trim() ? { error: problemOf(query.error).detail } : {})}
        />
        <Button type="submit">Ask</Button>
      </Asking>
      <Row $gap={8}>
        {change !== null && <Button onPress={() => put('differs')}>What differs from live</Button>}
        <Button onPress={() => put(`routes ${host}`)}>Routes of {host}</Button>
      </Row>
      <Answered>
        {query.isFetching && <Waiting what="Asking" />}
        {query.currentData && !query.isError && (
          <AnswerView answer={query.currentData} fabric={fabric} seatOf={seatOf} />
        )}
      </Answered>
    </section>
  );
}
const Asking = styled.form`
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 10px;
  align-items: start;
  margin: 6px 0 8px;
  > button {
    margin-top: 19px;
  }
`;
