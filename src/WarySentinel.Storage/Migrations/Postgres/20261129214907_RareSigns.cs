using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class RareSigns : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // A single letter is in no index of trigrams. Those that nearly everybody has need none: a page of them is soon full.
            migrationBuilder.Sql("""
                CREATE INDEX "IX_members_Signs" ON members
                    USING gin (string_to_array(translate("Search", E'aeiorntslcdmh0123456789@. \n', ''), NULL));
                ANALYZE members;
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""DROP INDEX "IX_members_Signs";""");
        }
    }
}
