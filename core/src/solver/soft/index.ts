export * from './region';
