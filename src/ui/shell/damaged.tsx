import Link from "next/link";

/** In place of a study that cannot be read. */
export const Damaged = ({ id, why }: { id: string; why: string }) => (
  <main style={{ padding: "80px 64px", maxWidth: 560 }}>
    <h1>This study cannot be opened</h1>
    <p style={{ margin: "12px 0 20px" }}>{why}</p>
    <div className="row">
      <a className="btn main" href={`/api/studies/${id}/export?format=raw`} style={{ textDecoration: "none" }}>
        Save raw file
      </a>
      <Link prefetch={false} href="/" className="btn">
        Go to Home
      </Link>
    </div>
  </main>
);
