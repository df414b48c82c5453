import { skipToken } from '@reduxjs/toolkit/query';
import { useState, type FormEvent } from 'react';
import { useSearchParams } from 'react-router';
import { styled } from 'styled-components';
import { Answered, AnswerView } from '../../../app/AnswerView.tsx';
import { api, problemOf } from '../../../app/api.ts';
import { Button, Faded, Waiting } from '../../../parts/basics.tsx';
import { TextInput } from '../../../parts/fields.tsx';
import { useFabricView } from '../FabricFrame.tsx';
import { LookUpForm } from './lookUpForm.ts';

/** Looks a prefix up on every switch: who has it, in which table, along which paths. */
export function WhoHas() {
  const { fabric, change } = useFabricView();
  const [params, setParams] = useSearchParams();
  const asked = params.get('of');
  const [typed, setTyped] = useState(asked ?? '');
  const query = api.useAskNetworkQuery(
    asked === null ? skipToken : { name: fabric.name, change, question: `hears ${asked}` },
  );
  const seatOf = new Map(fabric.seats.map((s) => [s.host, s.seat]));
  const example = Object.entries(fabric.values).find(([key]) => key.endsWith('/loopback'))?.[1];
  return (
    <Sheet>
      <LookUpForm
        onSubmit={(e: FormEvent) => {
          e.preventDefault();
          const of = typed.trim();
          setParams(of === '' ? {} : { of }, { replace: true });
          if (of === asked && query.isError) void query.refetch();
        }}
      >
        <TextInput
          label="Prefix or address"
          code
          value={typed}
          onChange={setTyped}
          placeholder={example ?? '10.255.0.1/32'}
          hint="By the model, outside of VRFs and in each: who has just this prefix, and over whom."
          {...(query.isError && asked === typed.trim() ? { error: problemOf(query.error).detail } : {})}
        />
        <Button type="submit">Look it up</Button>
      </LookUpForm>
      <Answered>
        {query.isFetching && <Waiting what="Looking" />}
        {query.currentData && !query.isError && (
          <AnswerView answer={query.currentData} fabric={fabric.name} seatOf={seatOf} />
        )}
        {asked === null && <Faded>The loopbacks and subnets that are drawn stand under Values.</Faded>}
      </Answered>
    </Sheet>
  );
}
const Sheet = styled.div`
  overflow: auto;
  padding-bottom: 24px;
  table {
    table-layout: fixed;
  }
`;
