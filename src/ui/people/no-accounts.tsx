import Link from 'next/link';

/** What pages of accounts say on a server that has none. */
export function NoAccounts() {
  return (
    <main className="mx-auto max-w-xl p-16">
      <h1 className="text-2xl font-semibold">There are no accounts here</h1>
      <p className="mt-2 text-soft">
        This server was started without MAVREK_AUTH=on: whoever reaches it may do everything, and nobody signs
        in.
      </p>
      <p className="mt-4">
        <Link className="link" href="/">
          All plans
        </Link>
      </p>
    </main>
  );
}
