import { Link } from "react-router";
import { useTitle } from "@/parts/useTitle";

export function NotHere() {
  useTitle("Nothing here");
  return (
    <div className="mx-auto mt-24 max-w-md text-center">
      <h1 className="text-xl">There is nothing at this address.</h1>
      <p className="mt-2 text-muted">The link may be old or cut short.</p>
      <Link to="/bench" className="mt-4 inline-block text-salt underline underline-offset-4">
        Go to the bench
      </Link>
    </div>
  );
}
