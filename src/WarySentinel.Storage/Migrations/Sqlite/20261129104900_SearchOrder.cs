using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class SearchOrder : Migration
    {
        /// <summary>The address stands beside the text that is searched: hits are put in order without a look at each member.</summary>
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                DROP TRIGGER member_texts_changed; DROP TRIGGER members_renamed; DROP TRIGGER members_added;
                ALTER TABLE member_texts ADD COLUMN "Email" TEXT NOT NULL DEFAULT '';
                UPDATE member_texts SET "Email" = COALESCE((SELECT "Email" FROM members WHERE "Id" = "MemberId"), '');
                CREATE TRIGGER member_texts_changed AFTER UPDATE OF "Text" ON member_texts WHEN new."Text" <> old."Text" BEGIN
                  INSERT INTO member_search(member_search, rowid, "Text") VALUES ('delete', old."Number", old."Text");
                  INSERT INTO member_search(rowid, "Text") VALUES (new."Number", new."Text");
                END;
                CREATE TRIGGER members_renamed AFTER UPDATE OF "Search", "Email" ON members
                WHEN new."Search" <> old."Search" OR new."Email" <> old."Email" BEGIN
                  UPDATE member_texts SET "Text" = new."Search", "Email" = new."Email" WHERE "MemberId" = new."Id";
                END;
                CREATE TRIGGER members_added AFTER INSERT ON members WHEN NOT EXISTS (SELECT 1 FROM marks WHERE "Name" = 'many') BEGIN
                  INSERT INTO member_texts("MemberId", "Text", "Email") VALUES (new."Id", new."Search", new."Email");
                END;
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                DROP TRIGGER member_texts_changed; DROP TRIGGER members_renamed; DROP TRIGGER members_added;
                ALTER TABLE member_texts DROP COLUMN "Email";
                CREATE TRIGGER member_texts_changed AFTER UPDATE ON member_texts BEGIN
                  INSERT INTO member_search(member_search, rowid, "Text") VALUES ('delete', old."Number", old."Text");
                  INSERT INTO member_search(rowid, "Text") VALUES (new."Number", new."Text");
                END;
                CREATE TRIGGER members_renamed AFTER UPDATE OF "Search" ON members WHEN new."Search" <> old."Search" BEGIN
                  UPDATE member_texts SET "Text" = new."Search" WHERE "MemberId" = new."Id";
                END;
                CREATE TRIGGER members_added AFTER INSERT ON members WHEN NOT EXISTS (SELECT 1 FROM marks WHERE "Name" = 'many') BEGIN
                  INSERT INTO member_texts("MemberId", "Text") VALUES (new."Id", new."Search");
                END;
                """);
        }
    }
}
