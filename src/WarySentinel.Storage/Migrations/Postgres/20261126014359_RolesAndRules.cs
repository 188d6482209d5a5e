using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class RolesAndRules : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // "support" becomes a staff right. What is left of a role of that name that the site no longer has must make nobody staff.
            migrationBuilder.Sql(
                """
                DELETE FROM grants WHERE "Kind" = 0 AND "Key" = 'support'
                AND NOT EXISTS (SELECT 1 FROM standings AS s WHERE s."Kind" = 0 AND s."Key" = 'support')
                """);

            migrationBuilder.AddColumn<string>(
                name: "Home",
                table: "standings",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Links",
                table: "standings",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "Insists",
                table: "redirects",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.CreateTable(
                name: "group_rules",
                columns: table => new
                {
                    Group = table.Column<string>(type: "text", nullable: false),
                    Rule = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_group_rules", x => x.Group);
                });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "group_rules");

            migrationBuilder.DropColumn(
                name: "Home",
                table: "standings");

            migrationBuilder.DropColumn(
                name: "Links",
                table: "standings");

            migrationBuilder.DropColumn(
                name: "Insists",
                table: "redirects");
        }
    }
}
