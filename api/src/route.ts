/** How a route is written down: once, for Express, OpenAPI, the web, the demo and the tests. */
import type { z } from 'zod';
import type { Permission } from './permissions.ts';

export type Method = 'get' | 'post' | 'put' | 'patch' | 'delete';

/** How much a body may hold. */
export interface Limits {
  /** The longest body, unpacked. */
  bytes: number;
  /** The most entries of one array or one object. */
  entries: number;
}

export interface Route<
  P extends string = string,
  Q extends z.ZodType | undefined = z.ZodType | undefined,
  B extends z.ZodType | undefined = z.ZodType | undefined,
  R extends z.ZodType = z.ZodType,
> {
  method: Method;
  /** Under `/api`, in OpenAPI's spelling: `/sites/{site}/reads/{id}`. */
  path: P;
  summary: string;
  /** A permission is meant at the site of the path; on a path without a site, at any site. */
  needs: 'nothing' | 'signed in' | Permission;
  query?: Q;
  body?: B;
  /** Where a body may hold more or less than the usual. */
  limits?: Partial<Limits>;
  answers: R;
  /** What it answers is secret: it is kept nowhere, not even for the same request sent again. */
  secret?: boolean;
  /** Answers by itself (a stream); `answers` then describes one entry of it. */
  streams?: boolean;
}

/** Writes a route down with its types tied together. */
export const route = <
  const P extends string,
  R extends z.ZodType,
  Q extends z.ZodType | undefined = undefined,
  B extends z.ZodType | undefined = undefined,
>(
  spec: Route<P, Q, B, R>,
): Route<P, Q, B, R> => spec;

type NamesIn<P extends string> = P extends `${string}{${infer Name}}${infer Rest}` ? Name | NamesIn<Rest> : never;
/** The parts of a route's path in braces. */
export type Params<T> = T extends Route<infer P, infer _Q, infer _B, infer _R> ? { [K in NamesIn<P>]: string } : never;
/** What a route takes as its query, before it is checked. */
export type Query<T> = T extends { query?: infer Q } ? (Q extends z.ZodType ? z.input<Q> : undefined) : undefined;
/** What a route takes as its body, before it is checked. */
export type Body<T> = T extends { body?: infer B } ? (B extends z.ZodType ? z.input<B> : undefined) : undefined;
/** What a route answers. */
export type Answer<T> = T extends { answers: infer R extends z.ZodType } ? z.output<R> : never;

/** The address of a route under `/api`: its path with what stands in braces put in, encoded, and its query. */
export function addressOf<T extends Route>(
  { path }: T,
  params: Params<T>,
  query: Record<string, string | number | undefined> = {},
): string {
  const filled = path.replace(/\{(\w+)\}/g, (_, name: string) =>
    encodeURIComponent((params as Record<string, string>)[name] ?? ''),
  );
  const given = Object.entries(query).filter(([, value]) => value !== undefined && value !== '');
  return given.length === 0 ? filled : `${filled}?${new URLSearchParams(given as [string, string][])}`;
}
