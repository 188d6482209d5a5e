using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
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
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Section = table.Column<string>(type: "TEXT", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: false),
                    Last = table.Column<int>(type: "INTEGER", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_hosted_pages", x => x.Key);
                });

            migrationBuilder.CreateTable(
                name: "page_drafts",
                columns: table => new
                {
                    Page = table.Column<string>(type: "TEXT", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Description = table.Column<string>(type: "TEXT", nullable: true),
                    Text = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_page_drafts", x => x.Page);
                });

            migrationBuilder.CreateTable(
                name: "page_files",
                columns: table => new
                {
                    Page = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Type = table.Column<string>(type: "TEXT", nullable: false),
                    Size = table.Column<int>(type: "INTEGER", nullable: false),
                    Digest = table.Column<string>(type: "TEXT", nullable: false),
                    Content = table.Column<byte[]>(type: "BLOB", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_page_files", x => new { x.Page, x.Name });
                });

            migrationBuilder.CreateTable(
                name: "page_versions",
                columns: table => new
                {
                    Page = table.Column<string>(type: "TEXT", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Description = table.Column<string>(type: "TEXT", nullable: true),
                    Text = table.Column<string>(type: "TEXT", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_page_versions", x => new { x.Page, x.Number });
                });

            migrationBuilder.CreateTable(
                name: "sections",
                columns: table => new
                {
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_sections", x => x.Key);
                });

            // What pages are found by; only the database knows this kind of table.
            migrationBuilder.Sql("CREATE VIRTUAL TABLE page_words USING fts5(words, page UNINDEXED, version UNINDEXED, piece UNINDEXED, asks UNINDEXED, tokenize = 'ascii')");
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
