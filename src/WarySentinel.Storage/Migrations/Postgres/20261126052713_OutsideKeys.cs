using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class OutsideKeys : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "outside_keys",
                columns: table => new
                {
                    Source = table.Column<string>(type: "text", nullable: false),
                    Key = table.Column<string>(type: "text", nullable: false),
                    MemberId = table.Column<Guid>(type: "uuid", nullable: false),
                    At = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_outside_keys", x => new { x.Source, x.Key });
                    table.ForeignKey(
                        name: "FK_outside_keys_members_MemberId",
                        column: x => x.MemberId,
                        principalTable: "members",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_outside_keys_MemberId",
                table: "outside_keys",
                column: "MemberId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "outside_keys");
        }
    }
}
