/** How many values of one name are kept, the latest used first: one per response, plan or view in sight. */
const MOST = 64;

interface Kept {
  inputs: readonly unknown[];
  value: unknown;
}

/**
 * Remembers derived figures by what they rest on: a value stands as long as every input is the same thing as before.
 * Studies are never changed in place, so that whatever was edited is another thing; numbers and texts are compared as
 * they are. Whoever holds a memo (a page's desk, a worker) decides how long it lives.
 */
export class Memo {
  private readonly byName = new Map<string, Kept[]>();

  /** The value made of these inputs, made now unless it stands already. */
  get<T>(name: string, inputs: readonly unknown[], make: () => T): T {
    const kept = this.byName.get(name) ?? [];
    const i = kept.findIndex(
      (k) => k.inputs.length === inputs.length && k.inputs.every((v, j) => Object.is(v, inputs[j])),
    );
    if (i >= 0) {
      const [found] = kept.splice(i, 1);
      kept.unshift(found);
      return found.value as T;
    }
    const value = make();
    kept.unshift({ inputs, value });
    this.byName.set(name, kept.slice(0, MOST));
    return value;
  }

  /** Values kept of a name whose inputs begin with these, with the rest of their inputs. */
  beginning<T>(name: string, inputs: readonly unknown[]): { rest: readonly unknown[]; value: T }[] {
    return (this.byName.get(name) ?? [])
      .filter((k) => inputs.every((v, j) => Object.is(v, k.inputs[j])))
      .map((k) => ({ rest: k.inputs.slice(inputs.length), value: k.value as T }));
  }
}

/** Keeps the value of a function's first call. */
export function once<T>(make: () => T): () => T {
  let kept: { value: T } | undefined;
  return () => {
    kept ??= { value: make() };
    return kept.value;
  };
}
