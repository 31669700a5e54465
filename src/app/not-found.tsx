import { GoHome } from "@/ui/shell/go-home";
import { Masthead } from "@/ui/shell/masthead";

export default function NotFound() {
  return (
    <main style={{ padding: "28px 64px", maxWidth: 560 }}>
      <Masthead />
      <h1>Nothing is here</h1>
      <p style={{ margin: "12px 0 20px" }}>
        This study does not exist or was deleted. Deleted studies can be brought back from Home for as long as its
        message shows; others are still there.
      </p>
      <GoHome />
    </main>
  );
}
