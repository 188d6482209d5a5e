using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class Passes : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Guid>(
                name: "PassId",
                table: "sessions",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "PassUntil",
                table: "sessions",
                type: "bigint",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "passes",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    Kind = table.Column<string>(type: "text", nullable: false),
                    Name = table.Column<string>(type: "text", nullable: false),
                    Holder = table.Column<string>(type: "text", nullable: false),
                    Email = table.Column<string>(type: "text", nullable: true),
                    Digest = table.Column<string>(type: "text", nullable: false),
                    OldDigest = table.Column<string>(type: "text", nullable: true),
                    OldUntil = table.Column<long>(type: "bigint", nullable: true),
                    CreatedAt = table.Column<long>(type: "bigint", nullable: false),
                    From = table.Column<long>(type: "bigint", nullable: true),
                    Until = table.Column<long>(type: "bigint", nullable: true),
                    WithdrawnAt = table.Column<long>(type: "bigint", nullable: true),
                    MostUses = table.Column<int>(type: "integer", nullable: true),
                    Uses = table.Column<int>(type: "integer", nullable: false),
                    MostNetworks = table.Column<int>(type: "integer", nullable: true),
                    LastUsedAt = table.Column<long>(type: "bigint", nullable: true),
                    Order = table.Column<string>(type: "text", nullable: true),
                    Search = table.Column<string>(type: "text", nullable: false),
                    Version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_passes", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "pass_networks",
                columns: table => new
                {
                    PassId = table.Column<Guid>(type: "uuid", nullable: false),
                    Network = table.Column<string>(type: "text", nullable: false),
                    FirstAt = table.Column<long>(type: "bigint", nullable: false),
                    LastAt = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_pass_networks", x => new { x.PassId, x.Network });
                    table.ForeignKey(
                        name: "FK_pass_networks_passes_PassId",
                        column: x => x.PassId,
                        principalTable: "passes",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_sessions_PassId",
                table: "sessions",
                column: "PassId");

            migrationBuilder.CreateIndex(
                name: "IX_passes_CreatedAt_Id",
                table: "passes",
                columns: new[] { "CreatedAt", "Id" });

            migrationBuilder.CreateIndex(
                name: "IX_passes_Kind",
                table: "passes",
                column: "Kind");

            migrationBuilder.CreateIndex(
                name: "IX_passes_Name",
                table: "passes",
                column: "Name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_passes_Order",
                table: "passes",
                column: "Order");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "pass_networks");

            migrationBuilder.DropTable(
                name: "passes");

            migrationBuilder.DropIndex(
                name: "IX_sessions_PassId",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "PassId",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "PassUntil",
                table: "sessions");
        }
    }
}
