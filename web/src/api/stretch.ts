import { keepPreviousData, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

/** How many rows are asked for at once. */
const size = 100;

interface Stretch<Row> {
  rows: Row[];
  total: number;
}

/**
 * A long list of which only the stretches in view are asked for. `key` names the list with its filters;
 * `fetch` gets a stretch of it from an offset on.
 */
export function useStretches<Row, List extends Stretch<Row>>(
  key: readonly unknown[],
  fetch: (offset: number, limit: number) => Promise<List>,
  enabled = true,
) {
  const [range, setRange] = useState({ first: 0, last: 0 });
  const head = useQuery({
    queryKey: [...key, 0],
    queryFn: () => fetch(0, size),
    enabled,
    placeholderData: keepPreviousData,
  });
  const numbers: number[] = [];
  for (let n = Math.max(1, range.first); n <= range.last; n++) numbers.push(n);
  const others = useQueries({
    queries: numbers.map((n) => ({
      queryKey: [...key, n],
      queryFn: () => fetch(n * size, size),
      enabled,
      placeholderData: keepPreviousData,
    })),
  });
  const queries = useQueryClient();
  const reached = useRef(0);
  const row = (index: number): Row | undefined => {
    const n = Math.floor(index / size);
    const stretch = n === 0 ? head.data : others[numbers.indexOf(n)]?.data;
    return stretch?.rows[index - n * size];
  };
  return {
    list: head.data,
    error: head.error,
    pending: head.isPending,
    /** It is of what is asked for now, and not of what was there before. */
    settled: !head.isPlaceholderData && !head.isFetching,
    total: head.data?.total ?? 0,
    row,
    /** Hands on a row, once it is there and no other was asked for: keys go further than what is in view. */
    reach: (index: number, then: (row: Row) => void) => {
      const turn = ++reached.current;
      const known = row(index);
      if (known !== undefined) {
        then(known);
        return;
      }
      const n = Math.floor(index / size);
      void queries
        .fetchQuery({ queryKey: [...key, n], queryFn: () => fetch(n * size, size) })
        .then((stretch) => {
          const found = stretch.rows[index - n * size];
          if (found !== undefined && turn === reached.current) then(found);
        })
        .catch(() => {}); // the list itself says what is wrong
    },
    /** Asks for all rows, with the filters that are set. */
    all: async (): Promise<Row[]> => {
      const rows: Row[] = [];
      for (let total = 1; rows.length < total; ) {
        const stretch = await fetch(rows.length, 500);
        total = stretch.rows.length === 0 ? 0 : stretch.total;
        rows.push(...stretch.rows);
      }
      return rows;
    },
    /** Tells which rows are in view. */
    see: (first: number, last: number) => {
      const next = { first: Math.floor(first / size), last: Math.floor(last / size) };
      if (next.first !== range.first || next.last !== range.last) setRange(next);
    },
  };
}
