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
