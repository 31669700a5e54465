import { StudyError } from "../study/error";

/** Cyclic rows of Plackett & Burman (1946). */
const ROWS: Readonly<Record<number, string>> = {
  12: "++-+++---+-",
  20: "++--++++-+-+----++-",
  24: "+++++-+-++--++--+-+----",
  36: "-+-+++---+++++-+++--+----+-+-++--+-",
};

/** The three 9 × 9 blocks of their plan in 28 runs. */
const BLOCKS_28 = [
  "+-++++--- ++-+++--- -+++++--- ---+-++++ ---++-+++ ----+++++ +++---+-+ +++---++- +++----++",
  "-+---+--+ --++--+-- +---+--+- --+-+---+ +----++-- -+-+---+- --+--+-+- +--+----+ -+--+-+--",
  "++-+-++-+ -++++-++- +-+-++-++ +-+++-+-+ ++--++++- -+++-+-++ +-++-+++- ++-++--++ -++-+++-+",
].map((block) => block.split(" ").map((row) => [...row].map((c) => (c === "+" ? 1 : -1))));

const bySign = (text: string): number[] => [...text].map((c) => (c === "+" ? 1 : -1));

/** n − 1 cyclic shifts of a row, then a row of low. */
function cyclic(row: readonly number[]): number[][] {
  const n = row.length;
  return [
    ...Array.from({ length: n }, (_, i) => row.map((_, j) => row[(j - i + n) % n])),
    new Array<number>(n).fill(-1),
  ];
}

/** The row of quadratic residues of a prime 3 mod 4 (Paley 1933): high at 0 and at squares. */
function residues(q: number): number[] {
  const squares = new Set(Array.from({ length: q - 1 }, (_, i) => ((i + 1) * (i + 1)) % q));
  return Array.from({ length: q }, (_, i) => (i === 0 || squares.has(i) ? 1 : -1));
}

/** Twice the runs and one column more than twice as many: [H H; H −H]. */
function doubled(h: readonly number[][]): number[][] {
  const top = h.map((r) => [...r, ...r, 1]);
  return [...top, ...h.map((r) => [...r, ...r.map((v) => -v), -1])];
}

export const SCREEN_SIZES = [12, 16, 20, 24, 28, 32, 36, 40, 44, 48] as const;

/**
 * n runs × (n − 1) orthogonal two-level columns of Plackett & Burman (1946): cyclic for 12, 20, 24, 36, 44 and 48, from
 * blocks for 28, by doubling for 40; 16 and 32 by doubling, which are regular.
 * @throws StudyError `bad-count`
 */
export function hadamardColumns(n: number): number[][] {
  if (ROWS[n]) return cyclic(bySign(ROWS[n]));
  if (n === 44 || n === 48) return cyclic(residues(n - 1));
  if (n === 28) {
    const [a, b, c] = BLOCKS_28;
    const rows = [
      [a, b, c],
      [c, a, b],
      [b, c, a],
    ].flatMap((bs) => bs[0].map((_, i) => bs.flatMap((block) => block[i])));
    return [...rows, new Array<number>(27).fill(-1)];
  }
  if (n === 40) return doubled(hadamardColumns(20));
  if (n === 16)
    return doubled(
      doubled(
        [
          [1, 1, 1],
          [1, -1, -1],
          [-1, 1, -1],
          [-1, -1, 1],
        ].map((r) => r),
      ),
    );
  if (n === 32) return doubled(hadamardColumns(16));
  throw new StudyError("bad-count.hadamard", { trials: n, sizes: [...SCREEN_SIZES] }, ["trials"]);
}

/** Elements of GF(q) for q = p or p², as additions and products on 0 … q − 1. */
function field(q: number): {
  add(a: number, b: number): number;
  negative(a: number): number;
  times(a: number, b: number): number;
} {
  const p = q === 9 ? 3 : q;
  if (q === p) return { add: (a, b) => (a + b) % q, negative: (a) => (q - a) % q, times: (a, b) => (a * b) % q };
  // a + b·i with i² = −1, which is no square in GF(3).
  const parts = (v: number): [number, number] => [v % 3, Math.floor(v / 3)];
  const join = (x: number, y: number): number => (((x % 3) + 3) % 3) + 3 * (((y % 3) + 3) % 3);
  return {
    add: (a, b) => join(parts(a)[0] + parts(b)[0], parts(a)[1] + parts(b)[1]),
    negative: (a) => join(-parts(a)[0], -parts(a)[1]),
    times(a, b) {
      const [x, y] = parts(a);
      const [u, v] = parts(b);
      return join(x * u - y * v, x * v + y * u);
    },
  };
}

/**
 * Conference matrix of even order m: zero diagonal, ±1 elsewhere, C′C = (m − 1)I. Orders q + 1 by Paley (1933) for
 * prime powers q; order 16 by doubling the skew one of order 8.
 */
export function conferenceMatrix(m: number): number[][] {
  if (m === 16) {
    const s = conferenceMatrix(8);
    const plus = (i: number, j: number, sign: number): number => s[i][j] + (i === j ? sign : 0);
    return Array.from({ length: 16 }, (_, r) =>
      Array.from({ length: 16 }, (__, c) => {
        const i = r % 8;
        const j = c % 8;
        if (r < 8) return c < 8 ? s[i][j] : plus(i, j, 1);
        return c < 8 ? plus(i, j, -1) : -s[i][j];
      }),
    );
  }
  const q = m - 1;
  const { add, negative, times } = field(q);
  const squares = new Set(Array.from({ length: q - 1 }, (_, i) => times(i + 1, i + 1)));
  const character = (v: number): number => (v === 0 ? 0 : squares.has(v) ? 1 : -1);
  // Symmetric for q = 1 mod 4, skew for q = 3 mod 4.
  const edge = q % 4 === 3 ? -1 : 1;
  return Array.from({ length: m }, (_, r) =>
    Array.from({ length: m }, (__, c) => {
      if (r === 0) return c === 0 ? 0 : 1;
      if (c === 0) return edge;
      return character(add(r - 1, negative(c - 1)));
    }),
  );
}
