import { benchSaving } from './saving';

benchSaving().catch((error: unknown) => {
  console.error(error);
  process.exitCode = 1;
});
