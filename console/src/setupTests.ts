import { configure } from '@testing-library/react';
import './words/i18n';
import { cleanup } from '@testing-library/react';
import { afterEach } from 'vitest';

afterEach(cleanup);

// What Mantine asks of a browser and jsdom does not have.
Object.defineProperty(window, 'matchMedia', {
  writable: true,
  value: (query: string) => ({
    matches: false,
    media: query,
    addEventListener: () => {},
    removeEventListener: () => {},
    addListener: () => {},
    removeListener: () => {},
  }),
});
globalThis.ResizeObserver = class {
  observe() {}
  unobserve() {}
  disconnect() {}
};

HTMLDialogElement.prototype.showModal ??= function () {
  this.open = true;
};

// A busy machine may take its time.
configure({ asyncUtilTimeout: 8000 });

// jsdom lays nothing out.
Element.prototype.scrollIntoView ??= () => {};
