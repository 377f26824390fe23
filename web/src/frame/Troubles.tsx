import { useQuery } from "@tanstack/react-query";
import { healthQuery } from "@/api/queries";

/** What keeps the program from storing anything, in the foot line; nothing where all is well. */
export function Troubles() {
  const { data } = useQuery(healthQuery);
  if (!data?.troubles.length) return null;
  return (
    <p role="status" data-testid="troubles" className="min-w-0 font-medium text-danger sm:truncate">
      {data.troubles.join(" ")}
    </p>
  );
}
