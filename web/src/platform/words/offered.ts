/** What a screen offers to do next: its filled button. */
export const OFFERED = 'main .btn-primary:not(:disabled)';
