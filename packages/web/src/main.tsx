import '@fontsource-variable/fraunces/index.css';
import '@fontsource-variable/hanken-grotesk/index.css';
import '@fontsource-variable/jetbrains-mono/index.css';
import { StrictMode, useEffect } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import { Toaster } from 'sonner';
import { router } from './app/routes.tsx';
import { store, useAppSelector } from './app/store.ts';
import { GlobalStyle } from './parts/theme.ts';

function SheetChoiceEffect() {
  const sheet = useAppSelector((s) => s.preferences.sheet);
  useEffect(() => {
    if (sheet === 'system') delete document.documentElement.dataset['sheet'];
    else document.documentElement.dataset['sheet'] = sheet;
  }, [sheet]);
  return null;
}

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Provider store={store}>
      <GlobalStyle />
      <SheetChoiceEffect />
      <RouterProvider router={router} />
      <Toaster position="bottom-right" toastOptions={{ duration: 7000 }} />
    </Provider>
  </StrictMode>,
);
