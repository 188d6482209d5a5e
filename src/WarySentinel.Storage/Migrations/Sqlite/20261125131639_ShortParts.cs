using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class ShortParts : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Where a text ends, no trigram begins with its last two letters. Whoever has SQLite build the table of members anew must make the index anew too.
            migrationBuilder.Sql("""
                CREATE VIRTUAL TABLE member_terms USING fts5vocab('member_search', 'row');
                CREATE INDEX "IX_members_SearchEnd" ON members (substr("Search", -2), "Id");
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                DROP INDEX "IX_members_SearchEnd";
                DROP TABLE member_terms;
                """);
        }
    }
}
