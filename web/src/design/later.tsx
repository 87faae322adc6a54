import { useEffect, useState, type ComponentType, type ReactNode } from "react";

type Loaded<P> = ComponentType<P> & { load: () => Promise<ComponentType<P>> };

/**
 * A part of the application in a file of its own, which is fetched when the part is first drawn, or before by `load`.
 *
 * Once it is there it is drawn at once. React's own `lazy` shows what stands in for a part even then, and whatever has
 * once shown that keeps it for 300 ms.
 */
export function later<P extends object>(
  fetch: () => Promise<ComponentType<P>>,
  meanwhile: (props: P) => ReactNode = () => null,
): Loaded<P> {
  let held: ComponentType<P> | null = null;
  const load = async () => {
    held ??= await fetch();
    return held;
  };
  function Part(props: P) {
    const [Drawn, setDrawn] = useState(() => held);
    const [failed, setFailed] = useState<Error | null>(null);
    useEffect(() => {
      if (Drawn) return undefined;
      let gone = false;
      void load().then(
        (found) => !gone && setDrawn(() => found),
        (error: Error) => !gone && setFailed(error),
      );
      return () => {
        gone = true;
      };
    }, [Drawn]);
    // For the boundary around it.
    if (failed) throw failed;
    return Drawn ? <Drawn {...props} /> : meanwhile(props);
  }
  return Object.assign(Part, { load });
}
