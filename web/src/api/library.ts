import { randomId } from './ids';
import { createApi } from '@reduxjs/toolkit/query/react';
import type {
  CharacterSummary,
  EndpointName,
  ShotPage,
  ShotsAsked,
  ShotState,
} from '@oscillum/core/contract';
import type { Shot } from '@oscillum/core/shot';
import { call, CallError } from './http';

interface Request {
  name: EndpointName;
  params?: Record<string, string>;
  query?: Record<string, string>;
  body?: unknown;
}
export interface Failure {
  code: string;
  message: string;
  remedy: string;
}

/** Lists and cards of the library, cached and refreshed by tag. */
export const libraryApi = createApi({
  reducerPath: 'library',
  tagTypes: ['shots', 'characters'],
  baseQuery: async ({ name, ...options }: Request): Promise<{ data: unknown } | { error: Failure }> => {
    try {
      return { data: await call(name, options) };
    } catch (e) {
      if (e instanceof CallError) return { error: { code: e.code, message: e.message, remedy: e.remedy } };
      throw e;
    }
  },
  endpoints: (build) => ({
    shots: build.query<ShotPage, Partial<ShotsAsked> | void>({
      query: (asked) => ({
        name: 'listShots',
        query: Object.fromEntries(Object.entries(asked ?? {}).map(([k, v]) => [k, String(v)])),
      }),
      providesTags: ['shots'],
    }),
    characters: build.query<CharacterSummary[], void>({
      query: () => ({ name: 'listCharacters' }),
      providesTags: ['characters'],
    }),
    upload: build.mutation<CharacterSummary, File | { file: File; of: string }>({
      query: (sent) => {
        const { file, ...of } = sent instanceof File ? { file: sent } : sent;
        return { name: 'uploadCharacter', query: { name: file.name, ...of }, body: file };
      },
      invalidatesTags: ['characters'],
    }),
    createShot: build.mutation<ShotState, Shot>({
      query: (shot) => ({ name: 'createShot', body: shot }),
      invalidatesTags: ['shots'],
    }),
    duplicateShot: build.mutation<ShotState, string>({
      query: (id) => ({ name: 'duplicateShot', params: { id }, body: {} }),
      invalidatesTags: ['shots'],
    }),
    deleteShot: build.mutation<object, string>({
      query: (id) => ({ name: 'deleteShot', params: { id } }),
      invalidatesTags: ['shots'],
    }),
    restoreShot: build.mutation<ShotState, string>({
      query: (id) => ({ name: 'restoreShot', params: { id }, body: {} }),
      invalidatesTags: ['shots'],
    }),
    deleteCharacter: build.mutation<object, string>({
      query: (hash) => ({ name: 'deleteCharacter', params: { hash } }),
      invalidatesTags: ['characters'],
    }),
    renameShot: build.mutation<
      { revision: number },
      { id: string; revision: number; from: string; to: string }
    >({
      query: ({ id, revision, from, to }) => ({
        name: 'postEdits',
        params: { id },
        body: {
          baseRevision: revision,
          edits: [
            {
              id: randomId(),
              name: 'Rename shot',
              patches: [{ op: 'replace', path: ['name'], value: to }],
              inverse: [{ op: 'replace', path: ['name'], value: from }],
            },
          ],
        },
      }),
      invalidatesTags: ['shots'],
    }),
  }),
});
