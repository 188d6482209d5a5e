using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class Restrict : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Asked",
                table: "shared_passwords",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "MostUses",
                table: "shared_passwords",
                type: "integer",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "Replaces",
                table: "shared_passwords",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "More",
                table: "gates",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Detail",
                table: "audit",
                type: "text",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "outbox",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    To = table.Column<string>(type: "text", nullable: false),
                    Subject = table.Column<string>(type: "text", nullable: false),
                    Body = table.Column<string>(type: "text", nullable: false),
                    CreatedAt = table.Column<long>(type: "bigint", nullable: false),
                    NextTryAt = table.Column<long>(type: "bigint", nullable: false),
                    SentAt = table.Column<long>(type: "bigint", nullable: true),
                    Tries = table.Column<int>(type: "integer", nullable: false),
                    Fault = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_outbox", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "password_networks",
                columns: table => new
                {
                    PasswordId = table.Column<Guid>(type: "uuid", nullable: false),
                    Network = table.Column<string>(type: "text", nullable: false),
                    FirstAt = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_password_networks", x => new { x.PasswordId, x.Network });
                    table.ForeignKey(
                        name: "FK_password_networks_shared_passwords_PasswordId",
                        column: x => x.PasswordId,
                        principalTable: "shared_passwords",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "redirects",
                columns: table => new
                {
                    Key = table.Column<string>(type: "text", nullable: false),
                    On = table.Column<int>(type: "integer", nullable: false),
                    Audience = table.Column<string>(type: "text", nullable: false),
                    To = table.Column<string>(type: "text", nullable: false),
                    Position = table.Column<int>(type: "integer", nullable: false),
                    Version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_redirects", x => x.Key);
                });

            migrationBuilder.CreateTable(
                name: "sweeps",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    StartedAt = table.Column<long>(type: "bigint", nullable: false),
                    EndedAt = table.Column<long>(type: "bigint", nullable: false),
                    By = table.Column<string>(type: "text", nullable: false),
                    Leaks = table.Column<int>(type: "integer", nullable: false),
                    Report = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_sweeps", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_audit_Subject",
                table: "audit",
                column: "Subject");

            migrationBuilder.CreateIndex(
                name: "IX_outbox_SentAt_NextTryAt",
                table: "outbox",
                columns: new[] { "SentAt", "NextTryAt" });

            migrationBuilder.CreateIndex(
                name: "IX_sweeps_StartedAt",
                table: "sweeps",
                column: "StartedAt");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "outbox");

            migrationBuilder.DropTable(
                name: "password_networks");

            migrationBuilder.DropTable(
                name: "redirects");

            migrationBuilder.DropTable(
                name: "sweeps");

            migrationBuilder.DropIndex(
                name: "IX_audit_Subject",
                table: "audit");

            migrationBuilder.DropColumn(
                name: "Asked",
                table: "shared_passwords");

            migrationBuilder.DropColumn(
                name: "MostUses",
                table: "shared_passwords");

            migrationBuilder.DropColumn(
                name: "Replaces",
                table: "shared_passwords");

            migrationBuilder.DropColumn(
                name: "More",
                table: "gates");

            migrationBuilder.DropColumn(
                name: "Detail",
                table: "audit");
        }
    }
}
