using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Reminders : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Remind",
                table: "standings",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "reminders",
                columns: table => new
                {
                    GrantId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Until = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_reminders", x => new { x.GrantId, x.Kind, x.Until });
                });

            migrationBuilder.CreateIndex(
                name: "IX_reminders_Until",
                table: "reminders",
                column: "Until");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "reminders");

            migrationBuilder.DropColumn(
                name: "Remind",
                table: "standings");
        }
    }
}
