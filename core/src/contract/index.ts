export {
  ApiError,
  CharacterSummary,
  EditRecord,
  ENDPOINTS,
  PostEdits,
  ShotId,
  ShotState,
  ShotSummary,
  type EndpointName,
} from './api';
export { Job, JobId, JobRequest, JobResult, PostJobs } from './jobs';
