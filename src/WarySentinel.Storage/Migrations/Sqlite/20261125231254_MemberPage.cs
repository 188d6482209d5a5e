using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class MemberPage : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<long>(
                name: "SeenAt",
                table: "members",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "StatusAt",
                table: "members",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "StatusBy",
                table: "members",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "StatusWords",
                table: "members",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "member_notes",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    MemberId = table.Column<Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_member_notes", x => x.Id);
                    table.ForeignKey(
                        name: "FK_member_notes_members_MemberId",
                        column: x => x.MemberId,
                        principalTable: "members",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_outbox_To_CreatedAt",
                table: "outbox",
                columns: new[] { "To", "CreatedAt" });

            migrationBuilder.CreateIndex(
                name: "IX_members_Status_Email",
                table: "members",
                columns: new[] { "Status", "Email" });

            migrationBuilder.CreateIndex(
                name: "IX_member_notes_MemberId_At",
                table: "member_notes",
                columns: new[] { "MemberId", "At" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "member_notes");

            migrationBuilder.DropIndex(
                name: "IX_outbox_To_CreatedAt",
                table: "outbox");

            migrationBuilder.DropIndex(
                name: "IX_members_Status_Email",
                table: "members");

            migrationBuilder.DropColumn(
                name: "SeenAt",
                table: "members");

            migrationBuilder.DropColumn(
                name: "StatusAt",
                table: "members");

            migrationBuilder.DropColumn(
                name: "StatusBy",
                table: "members");

            migrationBuilder.DropColumn(
                name: "StatusWords",
                table: "members");
        }
    }
}
