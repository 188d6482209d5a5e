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
            // A member's row is written whenever what they hold changes; with room on its page, no index is written with it.
            migrationBuilder.Sql("""
                CREATE INDEX "IX_members_OtherLetters" ON members ("Email") WHERE "Search" ~ '[^ -~]';
                ALTER TABLE members SET (fillfactor = 90);
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                ALTER TABLE members RESET (fillfactor);
                DROP INDEX "IX_members_OtherLetters";
                """);
        }
    }
}
