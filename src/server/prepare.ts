import { closeServer } from './close';
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

prepare().catch((error: Error) => {
  process.stderr.write(`mavrek: the database could not be prepared: ${error.message}\n`);
  process.exitCode = 1;
});
