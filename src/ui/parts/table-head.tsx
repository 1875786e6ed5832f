/** The head of a plain table; columns of figures keep to the right. */
export function TableHead({
  columns,
  right = [],
}: {
  columns: readonly string[];
  right?: readonly string[];
}) {
  return (
    <thead>
      <tr className="text-left text-soft">
        {columns.map((title) => (
          <th
            key={title}
            scope="col"
            className={`font-normal ${right.includes(title) ? 'pl-3 text-right' : 'pr-3'}`}
          >
            {title}
          </th>
        ))}
      </tr>
    </thead>
  );
}
