import { styled } from 'styled-components';

/** One field with its button beside it. */
export const LookUpForm = styled.form`
  display: grid;
  grid-template-columns: minmax(240px, 420px) max-content;
  gap: 10px;
  align-items: start;
  padding-top: 10px;
  > button {
    margin-top: 19px;
  }
`;
