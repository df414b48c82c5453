import { styled } from 'styled-components';
import { token } from '../../../parts/theme.ts';

/** The frame of a palmette, which takes the gestures; its layer is what moves in it. */
export const PictureFrame = styled.div`
  flex: 1;
  min-height: 0;
  overflow: hidden;
  margin: 0 -10px;
  position: relative;
  touch-action: none;
  .layer {
    position: absolute;
    inset: 0;
    transform-origin: 0 0;
    will-change: transform;
  }
  .layer > * {
    position: absolute;
    inset: 0;
  }
  canvas {
    pointer-events: none;
  }
  .petal:hover > g > path {
    fill: ${token('verdigris-wash')};
  }
  [role='button']:focus {
    outline: none;
  }
  [role='button']:focus-visible > path,
  [role='button']:focus-visible > g > path {
    stroke: ${token('lapis')};
    stroke-width: 3;
  }
`;
