import { closeServer } from './close';
import { isLost } from './db';
import { migrate } from './migrate';
import { asServer } from './people/who';
import { seedDemo } from './seed';
import { storeShippedParts } from './shipped';

/** Run by the launcher before the application: schema and demo data. */
async function prepare(): Promise<void> {
  await migrate();
  await asServer(async () => {
    await storeShippedParts();
    await seedDemo();
  });
  await closeServer();
}

/** What the launcher is told by the status: the database was lost meanwhile, and may be back. */
const LOST_DATABASE = 75;

prepare().catch((error: Error & { code?: string }) => {
  process.stderr.write(`mavrek: the database could not be prepared: ${error.message}\n`);
  process.exit(isLost(error) ? LOST_DATABASE : 1);
});
