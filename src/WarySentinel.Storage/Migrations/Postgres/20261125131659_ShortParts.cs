using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class ShortParts : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Texts in other letters than English: few on most sites, and found by no trigram that begins with two English ones.
            // What waits to be put into the index of trigrams is walked through by each search, several times by one of two letters.
            // A member's row is written whenever what they hold changes; with room on its page, no index is written with it.
            migrationBuilder.Sql("""
                CREATE INDEX "IX_members_OtherLetters" ON members ("Email") WHERE "Search" ~ '[^\n -~]';
                ALTER TABLE members SET (fillfactor = 90);
                ALTER INDEX IF EXISTS "IX_members_Search" SET (gin_pending_list_limit = 256);
                ANALYZE members;
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                ALTER INDEX IF EXISTS "IX_members_Search" RESET (gin_pending_list_limit);
                ALTER TABLE members RESET (fillfactor);
                DROP INDEX "IX_members_OtherLetters";
                """);
        }
    }
}
