using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
{
    /// <inheritdoc />
    public partial class ViewLinks : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "IsTicket",
                table: "sessions",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<Guid>(
                name: "MadeBySession",
                table: "sessions",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "MadeByToken",
                table: "sessions",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateIndex(
                name: "IX_sessions_MadeBySession",
                table: "sessions",
                column: "MadeBySession");

            migrationBuilder.CreateIndex(
                name: "IX_sessions_MadeByToken",
                table: "sessions",
                column: "MadeByToken");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_sessions_MadeBySession",
                table: "sessions");

            migrationBuilder.DropIndex(
                name: "IX_sessions_MadeByToken",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "IsTicket",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "MadeBySession",
                table: "sessions");

            migrationBuilder.DropColumn(
                name: "MadeByToken",
                table: "sessions");
        }
    }
}
