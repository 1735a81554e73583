/** Going on to another address after an answer has come: only where whoever waited for it is still here. */
import { useCallback, useEffect, useRef } from 'react';
import { useNavigate } from 'react-router';

/** As `useNavigate`, for what follows an answer: does nothing once the component that asked is gone from the page. */
export function useNavigateFromHere(): (to: string) => void {
  const navigate = useNavigate();
  const isHere = useRef(true);
  useEffect(() => {
    isHere.current = true;
    return () => {
      isHere.current = false;
    };
  }, []);
  return useCallback(
    (to: string) => {
      if (isHere.current) void navigate(to);
    },
    [navigate],
  );
}
