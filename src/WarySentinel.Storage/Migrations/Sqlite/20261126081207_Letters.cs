using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class Letters : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_outbox_SentAt_NextTryAt",
                table: "outbox");

            migrationBuilder.AddColumn<long>(
                name: "HandedAt",
                table: "outbox",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Kind",
                table: "outbox",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<long>(
                name: "UnclearAt",
                table: "outbox",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Urgency",
                table: "outbox",
                type: "INTEGER",
                nullable: false,
                defaultValue: 1);

            migrationBuilder.AddColumn<string>(
                name: "Language",
                table: "members",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Code",
                table: "links",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Tries",
                table: "links",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.CreateTable(
                name: "letter_attempts",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    LetterId = table.Column<Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Outcome = table.Column<int>(type: "INTEGER", nullable: false),
                    Said = table.Column<string>(type: "TEXT", nullable: true),
                    Machine = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_letter_attempts", x => x.Id);
                    table.ForeignKey(
                        name: "FK_letter_attempts_outbox_LetterId",
                        column: x => x.LetterId,
                        principalTable: "outbox",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "letter_templates",
                columns: table => new
                {
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Language = table.Column<string>(type: "TEXT", nullable: false),
                    Subject = table.Column<string>(type: "TEXT", nullable: false),
                    Html = table.Column<string>(type: "TEXT", nullable: true),
                    Text = table.Column<string>(type: "TEXT", nullable: true),
                    Version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_letter_templates", x => new { x.Kind, x.Language });
                });

            migrationBuilder.CreateTable(
                name: "unreachable_addresses",
                columns: table => new
                {
                    Address = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Status = table.Column<string>(type: "TEXT", nullable: false),
                    Said = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_unreachable_addresses", x => x.Address);
                });

            migrationBuilder.CreateIndex(
                name: "IX_outbox_CreatedAt",
                table: "outbox",
                column: "CreatedAt");

            migrationBuilder.CreateIndex(
                name: "IX_outbox_SentAt",
                table: "outbox",
                column: "SentAt");

            migrationBuilder.CreateIndex(
                name: "IX_outbox_Waiting",
                table: "outbox",
                columns: new[] { "Urgency", "NextTryAt" },
                filter: "\"SentAt\" IS NULL AND \"GivenUpAt\" IS NULL AND \"UnclearAt\" IS NULL");

            // Two open links to one address for the same: the older ones were followed by a newer letter.
            migrationBuilder.Sql("""
                UPDATE links SET "ClosedAt" = "CreatedAt", "ClosedBy" = 1 WHERE "ClosedAt" IS NULL AND EXISTS (
                    SELECT 1 FROM links AS l WHERE l."ClosedAt" IS NULL AND l."Subject" = links."Subject" AND l."Purpose" = links."Purpose"
                    AND l."Address" = links."Address" AND l."Id" > links."Id");
                """);

            migrationBuilder.CreateIndex(
                name: "IX_links_Open",
                table: "links",
                columns: new[] { "Subject", "Purpose", "Address" },
                unique: true,
                filter: "\"ClosedAt\" IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_letter_attempts_LetterId_At",
                table: "letter_attempts",
                columns: new[] { "LetterId", "At" });

            migrationBuilder.CreateIndex(
                name: "IX_unreachable_addresses_At",
                table: "unreachable_addresses",
                column: "At");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "letter_attempts");

            migrationBuilder.DropTable(
                name: "letter_templates");

            migrationBuilder.DropTable(
                name: "unreachable_addresses");

            migrationBuilder.DropIndex(
                name: "IX_outbox_CreatedAt",
                table: "outbox");

            migrationBuilder.DropIndex(
                name: "IX_outbox_SentAt",
                table: "outbox");

            migrationBuilder.DropIndex(
                name: "IX_outbox_Waiting",
                table: "outbox");

            migrationBuilder.DropIndex(
                name: "IX_links_Open",
                table: "links");

            migrationBuilder.DropColumn(
                name: "HandedAt",
                table: "outbox");

            migrationBuilder.DropColumn(
                name: "Kind",
                table: "outbox");

            migrationBuilder.DropColumn(
                name: "UnclearAt",
                table: "outbox");

            migrationBuilder.DropColumn(
                name: "Urgency",
                table: "outbox");

            migrationBuilder.DropColumn(
                name: "Language",
                table: "members");

            migrationBuilder.DropColumn(
                name: "Code",
                table: "links");

            migrationBuilder.DropColumn(
                name: "Tries",
                table: "links");

            migrationBuilder.CreateIndex(
                name: "IX_outbox_SentAt_NextTryAt",
                table: "outbox",
                columns: new[] { "SentAt", "NextTryAt" });
        }
    }
}
