import Link from 'next/link';

export default function NotFound() {
  return (
    <main className="mx-auto max-w-xl p-16">
      <h1 className="text-2xl font-semibold">There is no such plan</h1>
      <p className="mt-2 text-soft">
        It may have been deleted. Deleted plans can be brought back from the list for 30 days.
      </p>
      <p className="mt-4">
        <Link className="link" href="/">
          All plans
        </Link>
      </p>
    </main>
  );
}
