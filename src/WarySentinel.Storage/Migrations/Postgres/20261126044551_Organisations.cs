using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class Organisations : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "links",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    Purpose = table.Column<int>(type: "integer", nullable: false),
                    Digest = table.Column<string>(type: "text", nullable: false),
                    Subject = table.Column<Guid>(type: "uuid", nullable: false),
                    Address = table.Column<string>(type: "text", nullable: false),
                    CreatedAt = table.Column<long>(type: "bigint", nullable: false),
                    Until = table.Column<long>(type: "bigint", nullable: false),
                    ClosedAt = table.Column<long>(type: "bigint", nullable: true),
                    ClosedBy = table.Column<int>(type: "integer", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_links", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "organisations",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    Key = table.Column<string>(type: "text", nullable: false),
                    Title = table.Column<string>(type: "text", nullable: false),
                    Seats = table.Column<int>(type: "integer", nullable: false),
                    Until = table.Column<long>(type: "bigint", nullable: true),
                    CreatedAt = table.Column<long>(type: "bigint", nullable: false),
                    Version = table.Column<int>(type: "integer", nullable: false),
                    Search = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_organisations", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "organisation_facts",
                columns: table => new
                {
                    OrganisationId = table.Column<Guid>(type: "uuid", nullable: false),
                    Kind = table.Column<int>(type: "integer", nullable: false),
                    Key = table.Column<string>(type: "text", nullable: false),
                    From = table.Column<long>(type: "bigint", nullable: true),
                    Until = table.Column<long>(type: "bigint", nullable: true),
                    Position = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_organisation_facts", x => new { x.OrganisationId, x.Kind, x.Key });
                    table.ForeignKey(
                        name: "FK_organisation_facts_organisations_OrganisationId",
                        column: x => x.OrganisationId,
                        principalTable: "organisations",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "organisation_invitations",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    OrganisationId = table.Column<Guid>(type: "uuid", nullable: false),
                    Email = table.Column<string>(type: "text", nullable: false),
                    Manages = table.Column<bool>(type: "boolean", nullable: false),
                    At = table.Column<long>(type: "bigint", nullable: false),
                    SentAt = table.Column<long>(type: "bigint", nullable: false),
                    Until = table.Column<long>(type: "bigint", nullable: false),
                    By = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_organisation_invitations", x => x.Id);
                    table.ForeignKey(
                        name: "FK_organisation_invitations_organisations_OrganisationId",
                        column: x => x.OrganisationId,
                        principalTable: "organisations",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "organisation_people",
                columns: table => new
                {
                    OrganisationId = table.Column<Guid>(type: "uuid", nullable: false),
                    MemberId = table.Column<Guid>(type: "uuid", nullable: false),
                    Manages = table.Column<bool>(type: "boolean", nullable: false),
                    JoinedAt = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_organisation_people", x => new { x.OrganisationId, x.MemberId });
                    table.ForeignKey(
                        name: "FK_organisation_people_members_MemberId",
                        column: x => x.MemberId,
                        principalTable: "members",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_organisation_people_organisations_OrganisationId",
                        column: x => x.OrganisationId,
                        principalTable: "organisations",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_links_Address",
                table: "links",
                column: "Address");

            migrationBuilder.CreateIndex(
                name: "IX_links_Digest",
                table: "links",
                column: "Digest",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_links_Subject_CreatedAt",
                table: "links",
                columns: new[] { "Subject", "CreatedAt" });

            migrationBuilder.CreateIndex(
                name: "IX_links_Until",
                table: "links",
                column: "Until");

            migrationBuilder.CreateIndex(
                name: "IX_organisation_facts_Kind_Key",
                table: "organisation_facts",
                columns: new[] { "Kind", "Key" });

            migrationBuilder.CreateIndex(
                name: "IX_organisation_invitations_Email",
                table: "organisation_invitations",
                column: "Email");

            migrationBuilder.CreateIndex(
                name: "IX_organisation_invitations_OrganisationId_Email",
                table: "organisation_invitations",
                columns: new[] { "OrganisationId", "Email" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_organisation_people_MemberId",
                table: "organisation_people",
                column: "MemberId");

            migrationBuilder.CreateIndex(
                name: "IX_organisations_Key",
                table: "organisations",
                column: "Key",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "links");

            migrationBuilder.DropTable(
                name: "organisation_facts");

            migrationBuilder.DropTable(
                name: "organisation_invitations");

            migrationBuilder.DropTable(
                name: "organisation_people");

            migrationBuilder.DropTable(
                name: "organisations");
        }
    }
}
