export {
  ApiError,
  CharacterSummary,
  EditRecord,
  ENDPOINTS,
  PostEdits,
  ShotId,
  ShotPage,
  ShotsAsked,
  ShotState,
  ShotSummary,
  type EndpointName,
} from './api';
export { FILM_KINDS, FilmRequest, Job, JobId, JobRequest, JobResult, PostJobs, type BakeJob } from './jobs';
