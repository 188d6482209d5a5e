import '@fontsource-variable/newsreader';
import '@fontsource-variable/atkinson-hyperlegible-next';
import '@fontsource-variable/atkinson-hyperlegible-mono';
import './look/tokens.css';
import './look/console.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { App } from './app';
import { chosen, speak } from './words/i18n';

const root = document.getElementById('root');
const draw = () => {
  if (root) {
    createRoot(root).render(
      <StrictMode>
        <App />
      </StrictMode>,
    );
  }
};

// In English where the words of another language do not come.
speak(chosen()).then(draw, draw);
