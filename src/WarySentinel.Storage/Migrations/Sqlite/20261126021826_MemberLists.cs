using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class MemberLists : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Who never signed in stands before all others, on every database.
            migrationBuilder.Sql("""CREATE INDEX "IX_members_Seen" ON members ((COALESCE("SeenAt", 0)), "Email")""");

            migrationBuilder.CreateIndex(
                name: "IX_members_CreatedAt_Email",
                table: "members",
                columns: new[] { "CreatedAt", "Email" });

            migrationBuilder.CreateIndex(
                name: "IX_members_Name",
                table: "members",
                column: "Search");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""DROP INDEX "IX_members_Seen" """);

            migrationBuilder.DropIndex(
                name: "IX_members_CreatedAt_Email",
                table: "members");

            migrationBuilder.DropIndex(
                name: "IX_members_Name",
                table: "members");
        }
    }
}
