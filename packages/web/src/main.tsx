import { StrictMode } from 'react';
import { ChakraProvider } from '@chakra-ui/react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import { z } from 'zod';
import 'ol/ol.css';
import './theme/fonts.css';
import { router } from './app/router';
import { store } from './state/store';
import { system } from './theme/system';

// the page may not make code while it runs
z.config({ jitless: true });

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Provider store={store}>
      <ChakraProvider value={system}>
        <RouterProvider router={router} />
      </ChakraProvider>
    </Provider>
  </StrictMode>,
);
