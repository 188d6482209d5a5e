using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class TwoLanes : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_grants_MemberId",
                table: "grants");

            migrationBuilder.DropIndex(
                name: "IX_grants_Kind_Key",
                table: "grants");

            migrationBuilder.AddColumn<long>(
                name: "GivenUpAt",
                table: "outbox",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Search",
                table: "members",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "Reference",
                table: "grants",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "feed",
                columns: table => new
                {
                    Id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    Kind = table.Column<int>(type: "integer", nullable: false),
                    Name = table.Column<string>(type: "text", nullable: false),
                    At = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_feed", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "leases",
                columns: table => new
                {
                    Name = table.Column<string>(type: "text", nullable: false),
                    Holder = table.Column<string>(type: "text", nullable: false),
                    Until = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_leases", x => x.Name);
                });

            migrationBuilder.CreateTable(
                name: "tries",
                columns: table => new
                {
                    Name = table.Column<string>(type: "text", nullable: false),
                    Wrong = table.Column<long>(type: "bigint", nullable: false),
                    Last = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_tries", x => x.Name);
                });

            // One grant of a fact from one source: what was given twice by hand before keeps a name of its own.
            migrationBuilder.Sql("""UPDATE grants SET "Source" = 'hand' WHERE "Source" = 'by hand'""");
            migrationBuilder.Sql("""
                UPDATE grants SET "Reference" = 'earlier-' || CAST("Id" AS TEXT) WHERE "Id" IN (SELECT t."Id" FROM
                (SELECT "Id", row_number() OVER (PARTITION BY "MemberId", "Kind", "Key", "Source" ORDER BY "Id") AS n FROM grants) AS t WHERE t.n > 1)
                """);

            migrationBuilder.CreateIndex(
                name: "IX_grants_MemberId_Kind_Key_Source_Reference",
                table: "grants",
                columns: new[] { "MemberId", "Kind", "Key", "Source", "Reference" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_members_Inactive",
                table: "members",
                column: "Id",
                filter: "\"Status\" <> 3");

            migrationBuilder.CreateIndex(
                name: "IX_grants_Holders",
                table: "grants",
                columns: new[] { "Kind", "Key", "MemberId", "From", "Until" });

            migrationBuilder.CreateIndex(
                name: "IX_grants_Until",
                table: "grants",
                column: "Until");

            migrationBuilder.CreateIndex(
                name: "IX_tries_Last",
                table: "tries",
                column: "Last");

            // The others are folded at the start after this (Store.RefoldAsync).
            migrationBuilder.Sql("""UPDATE members SET "Search" = lower("Name") || chr(10) || "Email" || chr(10) || coalesce("UserName", '')""");
            // Any part of a name: an index of trigrams. Room is left on each page, so that what changes nothing of it does not touch the index.
            // Where the extension is not to be had, searches are slow and nothing else.
            migrationBuilder.Sql("""
                ALTER TABLE members SET (fillfactor = 80);
                DO $$ BEGIN
                  CREATE EXTENSION IF NOT EXISTS pg_trgm;
                  CREATE INDEX "IX_members_Search" ON members USING gin ("Search" gin_trgm_ops);
                EXCEPTION WHEN OTHERS THEN
                  RAISE WARNING 'No index for searching members: %', SQLERRM;
                END $$;
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                DROP INDEX IF EXISTS "IX_members_Search";
                UPDATE grants SET "Source" = 'by hand' WHERE "Source" = 'hand';
                """);

            migrationBuilder.DropTable(
                name: "feed");

            migrationBuilder.DropTable(
                name: "leases");

            migrationBuilder.DropTable(
                name: "tries");

            migrationBuilder.DropIndex(
                name: "IX_grants_MemberId_Kind_Key_Source_Reference",
                table: "grants");

            migrationBuilder.DropIndex(
                name: "IX_grants_Until",
                table: "grants");

            migrationBuilder.DropIndex(
                name: "IX_members_Inactive",
                table: "members");

            migrationBuilder.DropIndex(
                name: "IX_grants_Holders",
                table: "grants");

            migrationBuilder.CreateIndex(
                name: "IX_grants_Kind_Key",
                table: "grants",
                columns: new[] { "Kind", "Key" });

            migrationBuilder.DropColumn(
                name: "GivenUpAt",
                table: "outbox");

            migrationBuilder.DropColumn(
                name: "Search",
                table: "members");

            migrationBuilder.DropColumn(
                name: "Reference",
                table: "grants");

            migrationBuilder.CreateIndex(
                name: "IX_grants_MemberId",
                table: "grants",
                column: "MemberId");
        }
    }
}
