import { Command, Option } from 'commander';
import { ROLES, type Role } from '@/core/people/rights';
import { closeServer } from '../close';
import { query } from '../db';
import { migrate } from '../migrate';
import { accountBy, hasPeople } from './accounts';
import { note } from './audit';
import { invite } from './invitations';
import { ownAddress } from './settings';
import { asServer, MAIN } from './who';

/**
 * `invite.ts ADDRESS`: a link that makes an account, as owner of the first workspace unless it is said otherwise; for an address that
 * has one, a link that sets a new password. `--anybody` only says by its status whether anybody has an account.
 */
async function run(address: string | undefined, options: { role: Role; workspace?: string; anybody?: true }) {
  if (options.anybody) {
    process.exitCode = (await hasPeople()) ? 0 : 1;
    return;
  }
  if (address === undefined || !/^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(address))
    throw new Error(`"${address ?? ''}" is no e-mail address`);
  await migrate();
  const found = await query<{ id: string; name: string }>(
    options.workspace === undefined
      ? 'select id, name from workspaces where id = $1'
      : 'select id, name from workspaces where id = $1 or lower(name) = lower($1)',
    [options.workspace ?? MAIN],
  );
  const [workspace] = found;
  if (!workspace) throw new Error(`there is no workspace "${options.workspace}"`);
  if (found.length > 1)
    throw new Error(`several workspaces are called so; take one of ${found.map(({ id }) => id).join(', ')}`);
  const account = await accountBy('email', address);
  const { key } = await invite(workspace.id, {
    email: address,
    role: options.role,
    by: null,
    personId: account?.id ?? null,
  });
  note(
    { workspace: workspace.id, via: 'command line' },
    { action: account ? 'made a link for a new password' : 'invited', target: address, status: 201 },
  );
  const host = `${process.env.HOST ?? '127.0.0.1'}:${process.env.PORT ?? 4600}`;
  process.stderr.write(
    account
      ? `${address} has an account; this link sets a new password, once, within 14 days:\n`
      : `this link makes ${address} ${options.role} of ${workspace.name}, once, within 14 days:\n`,
  );
  process.stdout.write(`${ownAddress(host)}/join/${key}\n`);
}

const command = new Command('mavrek invite')
  .argument('[address]', 'e-mail address')
  .addOption(new Option('--role <role>', 'role in the workspace').choices([...ROLES]).default('owner'))
  .option('--workspace <name>', 'name or id of the workspace')
  .addOption(new Option('--anybody').hideHelp())
  .action((address: string | undefined, options) =>
    asServer(() => run(address, options))
      .catch((error: Error) => {
        process.stderr.write(`mavrek: ${error.message}\n`);
        process.exitCode = 1;
      })
      .finally(closeServer),
  );
command.parseAsync().catch(() => undefined);
