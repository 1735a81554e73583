import type { Case, CaseSpecimen, CaseSummary, Questions } from '@rawbits/core/api';
import type { Translation } from '@rawbits/core/translate';
import { api } from '../app/api.ts';

interface OfCase {
  site: string;
  id: string;
}
export interface CaseChange {
  revision: number;
  name?: string;
  specimens?: CaseSpecimen[];
  questions?: Questions;
}
export interface CaseResult {
  revision: number;
  format: { id: string } | { id: string; name: string; layout: string };
  standing: 'proven' | 'presumed';
  facility: { code: string; name: string } | null;
  translation?: { name: string; translation: Translation } | null;
}

const caseApi = api.injectEndpoints({
  endpoints: (build) => ({
    cases: build.query<CaseSummary[], string>({
      query: (site) => ({ path: `/sites/${site}/cases` }),
      providesTags: ['Cases'],
    }),
    case: build.query<Case, OfCase>({
      query: ({ site, id }) => ({ path: `/sites/${site}/cases/${id}` }),
      keepUnusedDataFor: 0,
    }),
    startCase: build.mutation<Case, { site: string; name: string; specimens?: CaseSpecimen[]; questions?: Questions }>({
      query: ({ site, ...body }) => ({ path: `/sites/${site}/cases`, method: 'POST', body }),
      invalidatesTags: ['Cases'],
    }),
    changeCase: build.mutation<Case, OfCase & { change: CaseChange }>({
      query: ({ site, id, change }) => ({ path: `/sites/${site}/cases/${id}`, method: 'PATCH', body: change }),
      invalidatesTags: ['Cases'],
    }),
    removeCase: build.mutation<unknown, OfCase>({
      query: ({ site, id }) => ({ path: `/sites/${site}/cases/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Cases'],
    }),
    makeFormat: build.mutation<
      { formatId: string; version: number; evidence: number },
      OfCase & { result: CaseResult }
    >({
      query: ({ site, id, result }) => ({ path: `/sites/${site}/cases/${id}/result`, method: 'POST', body: result }),
      invalidatesTags: ['Cases', 'Formats', 'Trail'],
    }),
  }),
});
export const {
  useCasesQuery,
  useCaseQuery,
  useStartCaseMutation,
  useChangeCaseMutation,
  useRemoveCaseMutation,
  useMakeFormatMutation,
} = caseApi;
