// The way back from a page of Stress.
import { Link } from "@tanstack/react-router";

export const BackToStress = ({ site }: { site: string }) => (
  <p>
    <Link to="/site/$site/stress" params={{ site }} activeOptions={{ exact: true }}>
      Heat and drought
    </Link>
  </p>
);
