using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
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
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Search",
                table: "members",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "Reference",
                table: "grants",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "feed",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Kind = table.Column<int>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_feed", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "leases",
                columns: table => new
                {
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Holder = table.Column<string>(type: "TEXT", nullable: false),
                    Until = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_leases", x => x.Name);
                });

            migrationBuilder.CreateTable(
                name: "tries",
                columns: table => new
                {
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Wrong = table.Column<long>(type: "INTEGER", nullable: false),
                    Last = table.Column<long>(type: "INTEGER", nullable: false)
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

            // lower() knows English letters only; the others are folded at the start after this (Store.RefoldAsync).
            migrationBuilder.Sql("""UPDATE members SET "Search" = lower("Name") || char(10) || "Email" || char(10) || coalesce("UserName", '')""");
            // Any part of a name: an index of trigrams (sqlite.org/fts5.html §4.3.4), over rows whose numbers stay when the file is compacted.
            // Whoever has SQLite build the table of members anew must make the triggers on it anew too.
            migrationBuilder.Sql("""
                CREATE TABLE member_texts ("Number" INTEGER PRIMARY KEY AUTOINCREMENT, "MemberId" TEXT NOT NULL UNIQUE, "Text" TEXT NOT NULL);
                CREATE VIRTUAL TABLE member_search USING fts5("Text", content='member_texts', content_rowid='Number', tokenize='trigram case_sensitive 1', detail='none');
                CREATE TRIGGER member_texts_added AFTER INSERT ON member_texts BEGIN
                  INSERT INTO member_search(rowid, "Text") VALUES (new."Number", new."Text");
                END;
                CREATE TRIGGER member_texts_gone AFTER DELETE ON member_texts BEGIN
                  INSERT INTO member_search(member_search, rowid, "Text") VALUES ('delete', old."Number", old."Text");
                END;
                CREATE TRIGGER member_texts_changed AFTER UPDATE ON member_texts BEGIN
                  INSERT INTO member_search(member_search, rowid, "Text") VALUES ('delete', old."Number", old."Text");
                  INSERT INTO member_search(rowid, "Text") VALUES (new."Number", new."Text");
                END;
                CREATE TRIGGER members_added AFTER INSERT ON members BEGIN
                  INSERT INTO member_texts("MemberId", "Text") VALUES (new."Id", new."Search");
                END;
                CREATE TRIGGER members_gone AFTER DELETE ON members BEGIN
                  DELETE FROM member_texts WHERE "MemberId" = old."Id";
                END;
                CREATE TRIGGER members_renamed AFTER UPDATE OF "Search" ON members WHEN new."Search" <> old."Search" BEGIN
                  UPDATE member_texts SET "Text" = new."Search" WHERE "MemberId" = new."Id";
                END;
                INSERT INTO member_texts("MemberId", "Text") SELECT "Id", "Search" FROM members;
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                DROP TRIGGER members_renamed; DROP TRIGGER members_gone; DROP TRIGGER members_added; DROP TABLE member_search; DROP TABLE member_texts;
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
