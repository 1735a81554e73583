/**
 * The store as components see it. Each slice adds its part of the state to `RootState`, beside itself; the shell puts
 * them together. So what asks for a part knows that part alone.
 */
import type { ThunkDispatch, UnknownAction } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import type { api } from '../api/api.ts';

export interface RootState {
  api: ReturnType<typeof api.reducer>;
}

export type AppDispatch = ThunkDispatch<RootState, unknown, UnknownAction>;
export const useAppDispatch = useDispatch.withTypes<AppDispatch>();
export const useAppSelector = useSelector.withTypes<RootState>();
