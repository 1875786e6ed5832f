// Jest's set-up: the bundle that the server's worker threads run in tests.
import { buildServer } from './build-server.mjs';

export default () => buildServer('.mavrek');
