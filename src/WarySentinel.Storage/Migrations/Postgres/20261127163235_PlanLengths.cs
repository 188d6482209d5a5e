using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class PlanLengths : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Length",
                table: "standings",
                type: "text",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Length",
                table: "standings");
        }
    }
}
