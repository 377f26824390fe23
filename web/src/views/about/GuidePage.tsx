import Markdown from "react-markdown";
import { Link, useParams } from "react-router";
import remarkGfm from "remark-gfm";
import { at } from "@/api/base";
import { useTitle } from "@/parts/useTitle";
import { NotHere } from "@/views/NotHere";
import sources from "../../../../data/SOURCES.md?raw";
import formats from "../../../../docs/formats.md?raw";
import guide from "../../../../docs/guide.md?raw";

const PAGES: Record<string, { title: string; text: string }> = {
  guide: { title: "Guide", text: guide },
  formats: { title: "Formats", text: formats },
  sources: { title: "Where the data comes from", text: sources },
};
const pictures = import.meta.glob<string>("../../../../docs/screenshots/*.png", {
  query: "?url",
  import: "default",
  eager: true,
});
const SCHEMAS: Record<string, string> = { "scenario.schema.json": at("/api/v1/scenario.schema.json") };

/** The guide as it stands in the project's own files. */
export function GuidePage() {
  const { page: name = "guide" } = useParams();
  const page = PAGES[name];
  useTitle(page?.title ?? "Guide");
  if (!page) return <NotHere />;
  return (
    <div className="mx-auto max-w-3xl px-6 py-6">
      <nav aria-label="Guide" className="mb-4 flex flex-wrap gap-x-4 gap-y-1 text-[0.93rem]">
        {Object.entries(PAGES).map(([key, { title }]) => (
          <Link
            key={key}
            to={key === "guide" ? "/guide" : `/guide/${key}`}
            aria-current={key === name ? "page" : undefined}
            className="text-muted hover:text-ink aria-[current=page]:text-salt"
          >
            {title}
          </Link>
        ))}
      </nav>
      <article className="prose" data-testid="guide">
        <Markdown
          remarkPlugins={[remarkGfm]}
          components={{
            a: ({ href = "", children }) => {
              const own = Object.keys(PAGES).find((key) => href === `${key}.md`);
              if (own) return <Link to={`/guide/${own}`}>{children}</Link>;
              return <a href={SCHEMAS[href] ?? href}>{children}</a>;
            },
            img: ({ src = "", alt }) => <img src={pictures[`../../../../docs/${src}`]} alt={alt} loading="lazy" />,
            table: ({ children }) => (
              <div>
                <table>{children}</table>
              </div>
            ),
          }}
        >
          {page.text}
        </Markdown>
      </article>
    </div>
  );
}
