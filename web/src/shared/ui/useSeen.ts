/** Whether an element has come into sight, or near it; once it has, it stays so. */
import { useEffect, useRef, useState, type RefObject } from "react";

export function useSeen<T extends Element>(): [RefObject<T | null>, boolean] {
  const place = useRef<T>(null);
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    if (seen || !place.current) return;
    const watch = new IntersectionObserver((entries) => entries.some((one) => one.isIntersecting) && setSeen(true), { rootMargin: "200px" });
    watch.observe(place.current);
    return () => watch.disconnect();
  }, [seen]);
  return [place, seen];
}
