import { hadamardColumns } from "./hadamard";

/** An orthogonal array of strength two: runs × columns of levels 0 … s − 1, and how many levels each column has. */
export interface OrthogonalArray {
  runs: number;
  columns: { levels: number; values: number[] }[];
}

const parity = (m: number): number => {
  let v = m;
  v ^= v >> 4;
  v ^= v >> 2;
  v ^= v >> 1;
  return v & 1;
};

const weight = (m: number): number => Array.from({ length: 5 }, (_, i) => (m >> i) & 1).reduce((t, v) => t + v, 0);

/**
 * Two points of each line of a partial spread, found by search: in 8, 16 and 32 runs, and beside the plane 1 … 7 in
 * 32.
 */
const LINES: Readonly<Record<number, [number, number][]>> = {
  3: [[3, 1]],
  4: [
    [3, 15],
    [7, 5],
    [11, 13],
    [14, 10],
    [8, 9],
  ],
  5: [
    [14, 3],
    [7, 19],
    [2, 29],
    [17, 15],
    [26, 10],
    [8, 9],
    [22, 4],
    [28, 5],
    [12, 27],
  ],
};
const BESIDE_PLANE: [number, number][] = [
  [10, 23],
  [14, 31],
  [24, 20],
  [27, 16],
  [18, 26],
  [30, 19],
  [9, 28],
  [25, 22],
];

/** Disjoint flats of a binary space: a plane of seven points on request, then lines of three; the points left over. */
function flats(
  m: number,
  planes: number,
  lines: number,
): { planes: number; lines: [number, number][]; points: number[] } | undefined {
  if (planes === 1 && m < 4) return undefined;
  const known = planes === 1 ? (m === 5 ? BESIDE_PLANE : []) : (LINES[m] ?? []);
  if (known.length < lines) return undefined;
  const used = known.slice(0, lines);
  const taken = new Set([...(planes === 1 ? [1, 2, 3, 4, 5, 6, 7] : []), ...used.flatMap(([a, b]) => [a, b, a ^ b])]);
  // Products of an odd number of basic columns first: any of them are clear of two-factor interactions of each other.
  const points = Array.from({ length: 2 ** m - 1 }, (_, i) => i + 1)
    .filter((p) => !taken.has(p))
    .sort((a, b) => parity(b) - parity(a) || weight(a) - weight(b) || a - b);
  return { planes, lines: used, points };
}

/**
 * Arrays in 2^m runs: two-level columns, lines of three made four-level, a plane of seven made eight-level (Addelman
 * 1962).
 */
function binary(m: number, eights: number, fours: number): OrthogonalArray | undefined {
  const parts = flats(m, eights, fours);
  if (!parts) return undefined;
  const runs = Array.from({ length: 2 ** m }, (_, i) => i);
  return {
    runs: 2 ** m,
    columns: [
      ...Array.from({ length: parts.planes }, () => ({
        levels: 8,
        values: runs.map((r) => 4 * parity(r & 4) + 2 * parity(r & 2) + parity(r & 1)),
      })),
      ...parts.lines.map(([a, b]) => ({ levels: 4, values: runs.map((r) => 2 * parity(r & a) + parity(r & b)) })),
      ...parts.points.map((p) => ({ levels: 2, values: runs.map((r) => parity(r & p)) })),
    ],
  };
}

/**
 * Arrays in s^m runs for a prime s: one column per point of the projective space (Bose & Bush 1952); in 27 runs four
 * columns made nine-level.
 */
function prime(s: number, m: number, nine: boolean): OrthogonalArray {
  const n = s ** m;
  const digits = (v: number): number[] => Array.from({ length: m }, (_, i) => Math.floor(v / s ** i) % s);
  const points = Array.from({ length: n - 1 }, (_, i) => digits(i + 1)).filter(
    (d) => d[d.findIndex((x) => x !== 0)] === 1,
  );
  const runs = Array.from({ length: n }, (_, i) => digits(i));
  const column = (p: readonly number[]): number[] => runs.map((r) => r.reduce((t, x, i) => t + x * p[i], 0) % s);
  const plain = nine ? points.filter((p) => p[2] !== 0) : points;
  return {
    runs: n,
    columns: [
      ...(nine ? [{ levels: 9, values: runs.map((r) => r[0] + 3 * r[1]) }] : []),
      ...plain.map((p) => ({ levels: s, values: column(p) })),
    ],
  };
}

/** Difference schemes over three levels, found by search: any two rows differ by each of 0, 1, 2 equally often. */
const SCHEMES: Readonly<Record<number, string[]>> = {
  6: ["000000", "001122", "010221", "021210", "012012", "022101"],
  12: [
    "000000000000",
    "000011112222",
    "021021021210",
    "001210221021",
    "002022210111",
    "011202012012",
    "010222101120",
    "021101200122",
    "012201120201",
    "022120111002",
    "020112022101",
    "012110202210",
  ],
};
/** A three-level and four two-level columns in twelve runs. */
const TWELVE = ["000011112222", "110011001100", "110010100011", "101001101010", "101010010110"];

/**
 * Arrays in 18 and 36 runs: a difference scheme developed over three levels, with an array on its columns (Bose &
 * Bush 1952).
 */
function developed(r: 6 | 12, inner: { levels: number; values: number[] }[]): OrthogonalArray {
  const cells = Array.from({ length: 3 * r }, (_, i) => ({ i: i % r, j: Math.floor(i / r) }));
  return {
    runs: 3 * r,
    columns: [
      ...inner.map((c) => ({ levels: c.levels, values: cells.map(({ i }) => c.values[i]) })),
      ...SCHEMES[r].map((row) => ({ levels: 3, values: cells.map(({ i, j }) => (Number(row[i]) + j) % 3) })),
    ],
  };
}

const twoLevel = (n: number): { levels: number; values: number[] }[] => {
  const h = hadamardColumns(n);
  return h[0].map((_, j) => ({ levels: 2, values: h.map((row) => (row[j] > 0 ? 1 : 0)) }));
};
const listed = (rows: readonly string[]): { levels: number; values: number[] }[] =>
  rows.map((row) => ({ levels: Math.max(...[...row].map(Number)) + 1, values: [...row].map(Number) }));

export const ARRAY_SIZES = [4, 8, 9, 12, 16, 18, 25, 27, 32, 36] as const;

/** Every array of a size, the ones with fewest wide columns first. */
export function arraysOf(runs: number): OrthogonalArray[] {
  const all = (m: number, most: number): OrthogonalArray[] =>
    [0, 1]
      .flatMap((eights) => Array.from({ length: most + 1 }, (_, fours) => binary(m, eights, fours)))
      .filter((a): a is OrthogonalArray => a !== undefined);
  const index = Array.from({ length: 12 }, (_, i) => i);
  switch (runs) {
    case 4:
      return all(2, 0);
    case 8:
      return all(3, 1);
    case 9:
      return [prime(3, 2, false)];
    case 12:
      return [
        { runs: 12, columns: twoLevel(12) },
        { runs: 12, columns: listed(TWELVE) },
      ];
    case 16:
      return all(4, 5);
    case 18: {
      const six = index.slice(0, 6);
      return [
        developed(6, [
          { levels: 2, values: six.map((i) => i % 2) },
          { levels: 3, values: six.map((i) => Math.floor(i / 2)) },
        ]),
        developed(6, [{ levels: 6, values: six }]),
      ];
    }
    case 25:
      return [prime(5, 2, false)];
    case 27:
      return [prime(3, 3, false), prime(3, 3, true)];
    case 32:
      return all(5, 9);
    case 36:
      return [
        developed(12, twoLevel(12)),
        developed(12, listed(TWELVE)),
        developed(12, [{ levels: 12, values: index }]),
      ];
    default:
      return [];
  }
}
