using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class ListOfTrigrams : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // How long the list of what is not yet in the index may be is said by whoever writes: short where one member is, longer where thousands are.
            migrationBuilder.Sql("""ALTER INDEX IF EXISTS "IX_members_Search" RESET (gin_pending_list_limit);""");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""ALTER INDEX IF EXISTS "IX_members_Search" SET (gin_pending_list_limit = 256);""");
        }
    }
}
