import type { Placement } from '@pontrel/core/placement/placement';
import { createApi, fetchBaseQuery } from '@reduxjs/toolkit/query/react';
import type {
  Added,
  BinItem,
  Candidate,
  CompareRequest,
  Created,
  CrossingRow,
  CrossingState,
  CrsName,
  DeliverableForecast,
  DeriveRequest,
  FaultList,
  LongProfileRequest,
  LongProfileView,
  FieldStatistics,
  FieldValue,
  GridList,
  Outliers,
  PathView,
  PlaceView,
  Preview,
  RecordIds,
  RecordPage,
  RecordView,
  RunProof,
  RecentRun,
  RunSummary,
} from '@pontrel/contract/crossing';
import type { Job } from '@pontrel/contract/job';
import type { Card, OnCard, PictureSizes, PieceView, PixelValues } from '@pontrel/contract/pictures';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import type { Crs } from '@pontrel/core/crs/crs';
import { cameLate, told } from './unsaved';

const form = (files: readonly File[]): FormData => {
  const data = new FormData();
  for (const file of files) data.append('file', file, file.name);
  return data;
};

/** Whether images become one source, as the address says it. */
const joined = (together: boolean): string => (together ? '?together=yes' : '');

/** The HTTP API, with what is kept of it. */
export const api = createApi({
  reducerPath: 'api',
  baseQuery: fetchBaseQuery({ baseUrl: '/api/' }),
  tagTypes: ['Crossings', 'Crossing', 'Rules', 'Bin', 'Templates'],
  endpoints: (build) => ({
    crossings: build.query<CrossingRow[], void>({ query: () => 'crossings', providesTags: ['Crossings'] }),
    recentRuns: build.query<RecentRun[], void>({ query: () => 'runs', providesTags: ['Crossings'] }),
    copy: build.mutation<Created, string>({
      query: (id) => ({ url: `crossings/${id}/copy`, method: 'POST' }),
      invalidatesTags: ['Crossings'],
    }),
    crossing: build.query<CrossingState, string>({
      query: (id) => `crossings/${id}`,
      transformResponse: (state: CrossingState) => told(state),
      providesTags: (_r, _e, id) => [{ type: 'Crossing', id }],
      async onQueryStarted(id, { dispatch, queryFulfilled }) {
        await queryFulfilled.catch(() => {});
        if (cameLate(id)) dispatch(api.util.invalidateTags([{ type: 'Crossing', id }]));
      },
    }),
    create: build.mutation<Created, { files: File[]; together: boolean }>({
      query: ({ files, together }) => ({
        url: `crossings${joined(together)}`,
        method: 'POST',
        ...(files.length > 0 ? { body: form(files) } : {}),
      }),
      invalidatesTags: ['Crossings'],
    }),
    opened: build.mutation<unknown, string>({
      query: (id) => ({ url: `crossings/${id}/opened`, method: 'POST' }),
      invalidatesTags: ['Crossings'],
    }),
    rename: build.mutation<unknown, { id: string; name: string }>({
      query: ({ id, name }) => ({ url: `crossings/${id}`, method: 'PATCH', body: { name } }),
    }),
    remove: build.mutation<unknown, string>({
      query: (id) => ({ url: `crossings/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Crossings', 'Bin'],
    }),
    bin: build.query<BinItem[], void>({ query: () => 'bin', providesTags: ['Bin'] }),
    restore: build.mutation<unknown, string>({
      query: (id) => ({ url: `bin/${id}/restore`, method: 'POST' }),
      invalidatesTags: ['Crossings', 'Bin'],
    }),
    deleteForGood: build.mutation<unknown, string>({
      query: (id) => ({ url: `bin/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Bin'],
    }),
    addSources: build.mutation<Added, { id: string; files: File[]; together: boolean }>({
      query: ({ id, files, together }) => ({ url: `crossings/${id}/sources${joined(together)}`, method: 'POST', body: form(files) }),
    }),
    replaceSource: build.mutation<Added, { id: string; source: string; files: File[] }>({
      query: ({ id, source, files }) => ({ url: `crossings/${id}/sources/${source}/file`, method: 'PUT', body: form(files) }),
    }),
    templates: build.query<Deliverable[], void>({ query: () => 'templates', providesTags: ['Templates'] }),
    keepTemplate: build.mutation<Deliverable[], Deliverable>({
      query: (body) => ({ url: 'templates', method: 'PUT', body }),
      invalidatesTags: ['Templates'],
    }),
    forgetTemplate: build.mutation<Deliverable[], string>({
      query: (name) => ({ url: 'templates', method: 'DELETE', params: { name } }),
      invalidatesTags: ['Templates'],
    }),
    compare: build.mutation<Job, CompareRequest & { id: string }>({
      query: ({ id, ...body }) => ({ url: `crossings/${id}/comparisons`, method: 'POST', body }),
    }),
    derive: build.mutation<Job, DeriveRequest & { id: string }>({
      query: ({ id, ...body }) => ({ url: `crossings/${id}/derived`, method: 'POST', body }),
    }),
    /** `stamp` changes where the map does: faults of a source stay what they are, but for where they lie on it. */
    faults: build.query<FaultList, { id: string; source: string; stamp: string }>({
      query: ({ id, source }) => `crossings/${id}/sources/${source}/faults`,
    }),
    longProfile: build.query<LongProfileView, LongProfileRequest & { id: string; source: string }>({
      query: ({ id, source, ...params }) => ({ url: `crossings/${id}/sources/${source}/profile`, params }),
    }),
    removeSource: build.mutation<unknown, { id: string; source: string }>({
      query: ({ id, source }) => ({ url: `crossings/${id}/sources/${source}`, method: 'DELETE' }),
      invalidatesTags: ['Bin'],
    }),
    saveRecipe: build.mutation<CrossingState, { id: string; recipe: Recipe; revision: number }>({
      query: ({ id, ...body }) => ({ url: `crossings/${id}/recipe`, method: 'PUT', body }),
      invalidatesTags: (_r, _e, { id }) => [{ type: 'Rules', id }],
    }),
    texts: build.query<string[], { id: string; source: string; codePage: string }>({
      query: ({ id, source, codePage }) => ({ url: `crossings/${id}/sources/${source}/texts`, params: { codePage } }),
    }),
    records: build.query<
      RecordPage,
      { id: string; source: string; layer: string; offset: number; limit: number; sort?: string; descending?: 'yes'; where?: string }
    >({ query: ({ id, source, ...params }) => ({ url: `crossings/${id}/sources/${source}/records`, params }) }),
    recordIds: build.query<RecordIds, { id: string; source: string; layer: string; where: string }>({
      query: ({ id, source, ...params }) => ({ url: `crossings/${id}/sources/${source}/ids`, params }),
    }),
    statistics: build.query<FieldStatistics, { id: string; source: string; layer: string; field: string; where?: string }>({
      query: ({ id, source, ...params }) => ({ url: `crossings/${id}/sources/${source}/statistics`, params }),
    }),
    fieldValues: build.query<FieldValue[], { id: string; source: string; layer: string; field: string; begin: string }>({
      query: ({ id, source, ...params }) => ({ url: `crossings/${id}/sources/${source}/values`, params }),
    }),
    record: build.query<RecordView, { id: string; source: string; record: number }>({
      query: ({ id, ...params }) => ({ url: `crossings/${id}/record`, params }),
    }),
    candidates: build.query<
      Candidate[],
      { id: string; source: string; near: readonly [number, number] | null; unit_m: number | null | undefined }
    >({
      query: ({ id, source, near, unit_m }) => ({
        url: `crossings/${id}/sources/${source}/candidates`,
        params: { ...(near ? { lon: near[0], lat: near[1] } : {}), ...(unit_m === undefined ? {} : { unit: unit_m ?? 'own' }) },
      }),
      providesTags: (_r, _e, { id }) => [{ type: 'Rules', id }],
    }),
    proposal: build.query<Placement, { id: string; source: string; crs: string }>({
      query: ({ id, source, crs }) => ({ url: `crossings/${id}/sources/${source}/proposal`, params: { crs } }),
    }),
    path: build.query<PathView, { id: string; source: string }>({
      query: ({ id, source }) => `crossings/${id}/sources/${source}/path`,
      providesTags: (_r, _e, { id }) => [{ type: 'Rules', id }],
    }),
    preview: build.query<Preview, { id: string; source: string; placement: Placement; revision: number }>({
      query: ({ id, source, placement }) => ({ url: `crossings/${id}/sources/${source}/previews`, method: 'POST', body: placement }),
      keepUnusedDataFor: 5,
    }),
    outliers: build.query<Outliers, { id: string; source: string }>({
      query: ({ id, source }) => `crossings/${id}/sources/${source}/outliers`,
    }),
    grids: build.query<GridList, void>({ query: () => 'grids', keepUnusedDataFor: 0 }),
    where: build.query<PlaceView, { id: string; frame?: string; degrees?: string; other?: string; crs?: string }>({
      query: ({ id, ...params }) => ({ url: `crossings/${id}/where`, params }),
    }),
    saveDefinition: build.mutation<unknown, { name: string; text: string }>({
      query: (body) => ({ url: 'definitions', method: 'PUT', body }),
    }),
    forecasts: build.query<DeliverableForecast[], string>({
      query: (id) => `crossings/${id}/forecasts`,
      providesTags: (_r, _e, id) => [{ type: 'Rules', id }],
    }),
    run: build.mutation<Job, { id: string; deliverable: string }>({
      query: ({ id, deliverable }) => ({ url: `crossings/${id}/runs`, method: 'POST', body: { deliverable } }),
    }),
    runs: build.query<RunSummary[], string>({
      query: (id) => `crossings/${id}/runs`,
      providesTags: (_r, _e, id) => [{ type: 'Crossing', id }],
    }),
    pinRun: build.mutation<unknown, { run: string; pinned: boolean }>({
      query: ({ run, ...body }) => ({ url: `runs/${run}`, method: 'PATCH', body }),
    }),
    runRecipe: build.query<Recipe, string>({ query: (run) => `runs/${run}/recipe` }),
    proof: build.query<RunProof, string>({ query: (run) => `runs/${run}` }),
    cards: build.query<Card[], void>({ query: () => 'cards', keepUnusedDataFor: 0 }),
    putOnCard: build.mutation<OnCard, { run: string; card: string }>({
      query: ({ run, card }) => ({ url: `runs/${run}/card`, method: 'POST', body: { card } }),
    }),
    pixels: build.query<PixelValues, { id: string; x: number; y: number; stamp: string }>({
      query: ({ id, x, y }) => ({ url: `crossings/${id}/pixels`, params: { x, y } }),
    }),
    pictureSizes: build.query<PictureSizes, { id: string; deliverable: string; key: string }>({
      query: ({ id, deliverable }) => `crossings/${id}/deliverables/${deliverable}/size`,
    }),
    overview: build.query<{ image: string }, { id: string; deliverable: string; key: string }>({
      query: ({ id, deliverable }) => `crossings/${id}/deliverables/${deliverable}/overview`,
    }),
    piece: build.query<
      PieceView,
      { id: string; deliverable: string; key: string; x: number; y: number; width: number; height: number; quality?: number }
    >({
      query: ({ id, deliverable, key: _key, ...params }) => ({ url: `crossings/${id}/deliverables/${deliverable}/piece`, params }),
    }),
    cancelJob: build.mutation<unknown, string>({ query: (id) => ({ url: `jobs/${id}/cancel`, method: 'POST' }) }),
    dismissJob: build.mutation<unknown, string>({ query: (id) => ({ url: `jobs/${id}`, method: 'DELETE' }) }),
    searchCrs: build.query<CrsName[], string>({ query: (q) => ({ url: 'crs', params: { q } }), keepUnusedDataFor: 600 }),
    crs: build.query<Crs, string>({ query: (text) => ({ url: 'crs/definition', params: { text } }), keepUnusedDataFor: 3600 }),
  }),
});

export const {
  useRecentRunsQuery,
  useCopyMutation,
  useCrossingsQuery,
  useCrossingQuery,
  useCreateMutation,
  useOpenedMutation,
  useRenameMutation,
  useRemoveMutation,
  useBinQuery,
  useRestoreMutation,
  useDeleteForGoodMutation,
  useRunsQuery,
  usePinRunMutation,
  useLazyRunRecipeQuery,
  useAddSourcesMutation,
  useCompareMutation,
  useDeriveMutation,
  useFaultsQuery,
  useLongProfileQuery,
  useTemplatesQuery,
  useKeepTemplateMutation,
  useForgetTemplateMutation,
  useRemoveSourceMutation,
  useReplaceSourceMutation,
  useRecordsQuery,
  useLazyRecordsQuery,
  useRecordIdsQuery,
  useFieldValuesQuery,
  useStatisticsQuery,
  useTextsQuery,
  useRecordQuery,
  useLazyRecordQuery,
  useCandidatesQuery,
  useLazyProposalQuery,
  usePathQuery,
  useForecastsQuery,
  useRunMutation,
  useProofQuery,
  usePixelsQuery,
  useCardsQuery,
  usePutOnCardMutation,
  usePictureSizesQuery,
  useOverviewQuery,
  usePieceQuery,
  useCancelJobMutation,
  useDismissJobMutation,
  useSearchCrsQuery,
  useCrsQuery,
  usePreviewQuery,
  useOutliersQuery,
  useGridsQuery,
  useLazyWhereQuery,
  useSaveDefinitionMutation,
} = api;

/** The sentence to show for a failed request. */
export function messageOfError(error: unknown): string {
  const data = (error as { data?: { error?: { message?: string } } } | undefined)?.data;
  return data?.error?.message ?? 'Pontrel’s server does not answer. Check that its window is still open, then try again.';
}
