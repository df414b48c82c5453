import { useEffect, type ReactNode } from 'react';
import { styled } from 'styled-components';
import { serif, token } from '../parts/theme.ts';
import { ObjectNotes } from './ObjectNotes.tsx';

interface Props {
  readonly title: string;
  readonly sub?: ReactNode;
  readonly crumbs?: ReactNode;
  readonly actions?: ReactNode;
  readonly tabs?: ReactNode;
  readonly aside?: ReactNode;
  readonly asideLabel?: string;
  readonly children: ReactNode;
  readonly flush?: boolean;
}
/** The work: crumbs, heading, actions, the one main thing, and the aside on the right where there is one. */
export function Page({ title, sub, crumbs, actions, tabs, aside, asideLabel = 'Details', children, flush }: Props) {
  useEffect(() => {
    document.title = `${title} · Anthemion`;
  }, [title]);
  return (
    <Frame $aside={aside !== undefined && aside !== null && aside !== false}>
      <main id="work">
        {crumbs && <Crumbs>{crumbs}</Crumbs>}
        <Head>
          <h1>{title}</h1>
          <span className="sub">{sub}</span>
          <span className="grow" />
          {actions}
        </Head>
        {tabs}
        <Body $flush={flush ?? false}>{children}</Body>
      </main>
      {aside && (
        <Aside aria-label={asideLabel}>
          {aside}
          <ObjectNotes />
        </Aside>
      )}
    </Frame>
  );
}
const Frame = styled.div<{ $aside: boolean }>`
  display: grid;
  grid-template-columns: minmax(0, 1fr) ${(p) => (p.$aside ? '278px' : '')};
  min-height: 0;
  height: 100%;
  main {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
    padding: 13px 22px 0;
  }
`;
const Crumbs = styled.nav`
  font-size: 12.5px;
  color: ${token('faded')};
  a {
    color: inherit;
    text-decoration: none;
  }
  a:hover {
    text-decoration: underline;
  }
`;
const Head = styled.header`
  display: flex;
  align-items: center;
  gap: 14px;
  min-height: 36px;
  h1 {
    font: 500 27px/1.2 ${serif};
    white-space: nowrap;
  }
  .sub {
    color: ${token('faded')};
    font-size: 13px;
    padding-top: 6px;
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .grow {
    flex: 1;
  }
`;
const Body = styled.div<{ $flush: boolean }>`
  flex: 1;
  min-height: 0;
  overflow: ${(p) => (p.$flush ? 'hidden' : 'auto')};
  display: flex;
  flex-direction: column;
  padding-bottom: ${(p) => (p.$flush ? 0 : 16)}px;
  margin: 0 -22px;
  padding-left: 22px;
  padding-right: 22px;
`;
const Aside = styled.aside`
  border-left: 1px solid ${token('rule')};
  background: ${token('sheet')};
  padding: 16px 18px;
  font-size: 13px;
  display: flex;
  flex-direction: column;
  gap: 11px;
  /* What is drawn for readers only stays inside, and lengthens no page. */
  position: relative;
  overflow: auto;
`;
