using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class HostedPages : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "hosted_pages",
                columns: table => new
                {
                    Key = table.Column<string>(type: "text", nullable: false),
                    Section = table.Column<string>(type: "text", nullable: false),
                    Body = table.Column<string>(type: "text", nullable: false),
                    Last = table.Column<int>(type: "integer", nullable: false),
                    Version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_hosted_pages", x => x.Key);
                });

            migrationBuilder.CreateTable(
                name: "page_drafts",
                columns: table => new
                {
                    Page = table.Column<string>(type: "text", nullable: false),
                    Title = table.Column<string>(type: "text", nullable: false),
                    Description = table.Column<string>(type: "text", nullable: true),
                    Text = table.Column<string>(type: "text", nullable: false),
                    Version = table.Column<int>(type: "integer", nullable: false),
                    By = table.Column<string>(type: "text", nullable: false),
                    At = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_page_drafts", x => x.Page);
                });

            migrationBuilder.CreateTable(
                name: "page_files",
                columns: table => new
                {
                    Page = table.Column<string>(type: "text", nullable: false),
                    Name = table.Column<string>(type: "text", nullable: false),
                    Type = table.Column<string>(type: "text", nullable: false),
                    Size = table.Column<int>(type: "integer", nullable: false),
                    Digest = table.Column<string>(type: "text", nullable: false),
                    Content = table.Column<byte[]>(type: "bytea", nullable: false),
                    By = table.Column<string>(type: "text", nullable: false),
                    At = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_page_files", x => new { x.Page, x.Name });
                });

            migrationBuilder.CreateTable(
                name: "page_versions",
                columns: table => new
                {
                    Page = table.Column<string>(type: "text", nullable: false),
                    Number = table.Column<int>(type: "integer", nullable: false),
                    Title = table.Column<string>(type: "text", nullable: false),
                    Description = table.Column<string>(type: "text", nullable: true),
                    Text = table.Column<string>(type: "text", nullable: false),
                    By = table.Column<string>(type: "text", nullable: false),
                    At = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_page_versions", x => new { x.Page, x.Number });
                });

            migrationBuilder.CreateTable(
                name: "sections",
                columns: table => new
                {
                    Key = table.Column<string>(type: "text", nullable: false),
                    Body = table.Column<string>(type: "text", nullable: false),
                    Version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_sections", x => x.Key);
                });

            // What pages are found by; only the database knows this kind of column.
            migrationBuilder.Sql("CREATE TABLE page_words (page text NOT NULL, version integer NOT NULL, piece integer NOT NULL, asks text NOT NULL, words tsvector NOT NULL, PRIMARY KEY (page, version, piece))");
            migrationBuilder.Sql("CREATE INDEX ix_page_words ON page_words USING gin (words)");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("DROP TABLE page_words");
            migrationBuilder.DropTable(
                name: "hosted_pages");

            migrationBuilder.DropTable(
                name: "page_drafts");

            migrationBuilder.DropTable(
                name: "page_files");

            migrationBuilder.DropTable(
                name: "page_versions");

            migrationBuilder.DropTable(
                name: "sections");
        }
    }
}
