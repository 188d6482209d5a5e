using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class NamesOfSome : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_members_UserName",
                table: "members");

            migrationBuilder.CreateIndex(
                name: "IX_members_UserName",
                table: "members",
                column: "UserName",
                unique: true,
                filter: "\"UserName\" IS NOT NULL");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_members_UserName",
                table: "members");

            migrationBuilder.CreateIndex(
                name: "IX_members_UserName",
                table: "members",
                column: "UserName",
                unique: true);
        }
    }
}
