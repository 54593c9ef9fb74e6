import { createBrowserRouter, Navigate } from 'react-router';
import { Crossing } from '../crossing/Crossing';
import { Deliver } from '../deliver/Deliver';
import { Gather } from '../gather/Gather';
import { Home } from '../home/Home';
import { Place } from '../place/Place';
import { Prove } from '../prove/Prove';
import { Records } from '../records/Records';
import { Shape } from '../shape/Shape';
import { Span } from '../span/Span';
import { App } from './App';

export const router = createBrowserRouter([
  {
    element: <App />,
    children: [
      { path: '/', element: <Home /> },
      {
        path: '/crossings/:id',
        element: <Crossing />,
        children: [
          { index: true, element: <Navigate to="gather" replace /> },
          { path: 'gather', element: <Gather /> },
          { path: 'place', element: <Place /> },
          { path: 'shape', element: <Shape /> },
          { path: 'deliver', element: <Deliver /> },
          { path: 'prove', element: <Prove /> },
          { path: 'span', element: <Span /> },
          { path: 'records', element: <Records /> },
        ],
      },
      { path: '*', element: <Navigate to="/" replace /> },
    ],
  },
]);
