export { AccessLogs, LogProblem } from './accessLogs.ts';
