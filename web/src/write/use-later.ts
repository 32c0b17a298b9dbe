import { useEffect, useRef, useState } from "react";

/** What is done a while after the last call. */
export function useLater(ms: number, run: () => Promise<void>) {
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const latest = useRef(run);
  useEffect(() => {
    latest.current = run;
  });
  const [later] = useState(() => {
    const cancel = () => {
      clearTimeout(timer.current);
      timer.current = undefined;
    };
    const now = () => {
      cancel();
      return latest.current();
    };
    return {
      soon: () => {
        cancel();
        timer.current = setTimeout(() => void latest.current().catch(() => {}), ms);
      },
      now,
      cancel,
    };
  });
  return later;
}
