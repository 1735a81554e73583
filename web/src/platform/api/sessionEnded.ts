/**
 * Told when the server says that the session has ended; the sign-in then opens over the page. It names when the request
 * was sent: an answer to one from before the operator signed in again means nothing any more.
 */
import { createAction } from '@reduxjs/toolkit';

export const sessionEnded = createAction<number>('session/ended');
