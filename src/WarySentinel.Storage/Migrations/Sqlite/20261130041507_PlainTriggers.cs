using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class PlainTriggers : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Who stores members by the thousand has triggers off: nobody asks any more for the mark by which these knew of it.
            migrationBuilder.Sql("""
                DROP TRIGGER member_texts_added; DROP TRIGGER members_added;
                CREATE TRIGGER member_texts_added AFTER INSERT ON member_texts BEGIN
                  INSERT INTO member_search(rowid, "Text") VALUES (new."Number", new."Text");
                END;
                CREATE TRIGGER members_added AFTER INSERT ON members BEGIN
                  INSERT INTO member_texts("MemberId", "Text", "Email") VALUES (new."Id", new."Search", new."Email");
                END;
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                DROP TRIGGER member_texts_added; DROP TRIGGER members_added;
                CREATE TRIGGER member_texts_added AFTER INSERT ON member_texts WHEN NOT EXISTS (SELECT 1 FROM marks WHERE "Name" = 'many') BEGIN
                  INSERT INTO member_search(rowid, "Text") VALUES (new."Number", new."Text");
                END;
                CREATE TRIGGER members_added AFTER INSERT ON members WHEN NOT EXISTS (SELECT 1 FROM marks WHERE "Name" = 'many') BEGIN
                  INSERT INTO member_texts("MemberId", "Text", "Email") VALUES (new."Id", new."Search", new."Email");
                END;
                """);
        }
    }
}
