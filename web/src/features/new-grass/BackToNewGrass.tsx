// The way back from planning new grass.
import { Link } from "@tanstack/react-router";

export const BackToNewGrass = ({ site }: { site: string }) => (
  <p>
    <Link to="/site/$site/new-grass" params={{ site }} activeOptions={{ exact: true }}>
      New grass
    </Link>
  </p>
);
