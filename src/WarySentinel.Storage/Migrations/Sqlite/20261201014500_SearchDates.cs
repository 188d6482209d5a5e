using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class SearchDates : Migration
    {
        /// <summary>What members are put in order by stands beside the text that is searched: hits are sorted without a look at each member.</summary>
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                DROP TRIGGER members_added;
                ALTER TABLE member_texts ADD COLUMN "CreatedAt" INTEGER NOT NULL DEFAULT 0;
                ALTER TABLE member_texts ADD COLUMN "SeenAt" INTEGER;
                UPDATE member_texts SET "CreatedAt" = m."CreatedAt", "SeenAt" = m."SeenAt" FROM members AS m WHERE m."Id" = member_texts."MemberId";
                CREATE TRIGGER members_dated AFTER UPDATE OF "CreatedAt", "SeenAt" ON members
                WHEN new."CreatedAt" <> old."CreatedAt" OR new."SeenAt" IS NOT old."SeenAt" BEGIN
                  UPDATE member_texts SET "CreatedAt" = new."CreatedAt", "SeenAt" = new."SeenAt" WHERE "MemberId" = new."Id";
                END;
                CREATE TRIGGER members_added AFTER INSERT ON members BEGIN
                  INSERT INTO member_texts("MemberId", "Text", "Email", "CreatedAt", "SeenAt")
                  VALUES (new."Id", new."Search", new."Email", new."CreatedAt", new."SeenAt");
                END;
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                DROP TRIGGER members_dated; DROP TRIGGER members_added;
                ALTER TABLE member_texts DROP COLUMN "CreatedAt";
                ALTER TABLE member_texts DROP COLUMN "SeenAt";
                CREATE TRIGGER members_added AFTER INSERT ON members BEGIN
                  INSERT INTO member_texts("MemberId", "Text", "Email") VALUES (new."Id", new."Search", new."Email");
                END;
                """);
        }
    }
}
