import { Link } from 'react-router';
import { styled } from 'styled-components';
import { token } from './theme.ts';

/** A way to another page that looks like what it is beside: a button. */
export const LinkButton = styled(Link)`
  border: 1px solid ${token('rule')};
  border-radius: 4px;
  padding: 5px 13px;
  font-weight: 600;
  font-size: 13px;
  line-height: 1.4;
  text-decoration: none;
  white-space: nowrap;
  color: ${token('ink')} !important;
  &:hover {
    background: ${token('rule-soft')};
  }
`;
