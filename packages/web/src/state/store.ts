import { configureStore } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import { api } from './api';
import { ui } from './ui';

export const store = configureStore({
  reducer: { [api.reducerPath]: api.reducer, ui },
  // recipes and profiles are large; walking them after every action to find what is not plain data costs frames
  middleware: (defaults) => defaults({ serializableCheck: false, immutableCheck: false }).concat(api.middleware),
  // a box that was ticked shows it in the same frame
  enhancers: (usual) => usual({ autoBatch: { type: 'tick' } }),
});

export type RootState = ReturnType<typeof store.getState>;
export type AppDispatch = typeof store.dispatch;
export const useAppDispatch = useDispatch.withTypes<AppDispatch>();
export const useAppSelector = useSelector.withTypes<RootState>();
