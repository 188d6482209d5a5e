using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
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
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "MostUses",
                table: "shared_passwords",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "Replaces",
                table: "shared_passwords",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "More",
                table: "gates",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Detail",
                table: "audit",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "outbox",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    To = table.Column<string>(type: "TEXT", nullable: false),
                    Subject = table.Column<string>(type: "TEXT", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: false),
                    CreatedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    NextTryAt = table.Column<long>(type: "INTEGER", nullable: false),
                    SentAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Tries = table.Column<int>(type: "INTEGER", nullable: false),
                    Fault = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_outbox", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "password_networks",
                columns: table => new
                {
                    PasswordId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Network = table.Column<string>(type: "TEXT", nullable: false),
                    FirstAt = table.Column<long>(type: "INTEGER", nullable: false)
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
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    On = table.Column<int>(type: "INTEGER", nullable: false),
                    Audience = table.Column<string>(type: "TEXT", nullable: false),
                    To = table.Column<string>(type: "TEXT", nullable: false),
                    Position = table.Column<int>(type: "INTEGER", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_redirects", x => x.Key);
                });

            migrationBuilder.CreateTable(
                name: "sweeps",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    StartedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    Leaks = table.Column<int>(type: "INTEGER", nullable: false),
                    Report = table.Column<string>(type: "TEXT", nullable: false)
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
