import { cleanup } from '@testing-library/react';
import { afterEach } from 'vitest';

afterEach(() => cleanup());

// What jsdom does not have and the parts ask for.
class NoObserver {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}
Object.assign(globalThis, { ResizeObserver: NoObserver, IntersectionObserver: NoObserver });
Object.assign(globalThis.CSS ?? ((globalThis as { CSS?: object }).CSS = {}), {
  escape: (text: string) => text.replaceAll(/[^\w-]/g, (c) => `\\${c}`),
});
/** Every element has room: a virtual list draws its rows. */
Object.defineProperties(HTMLElement.prototype, {
  offsetHeight: { configurable: true, get: () => 400 },
  offsetWidth: { configurable: true, get: () => 800 },
  clientHeight: { configurable: true, get: () => 400 },
  clientWidth: { configurable: true, get: () => 800 },
});
