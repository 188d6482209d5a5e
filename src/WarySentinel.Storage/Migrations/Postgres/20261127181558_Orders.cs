using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Postgres
{
    /// <inheritdoc />
    public partial class Orders : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Grace",
                table: "standings",
                type: "text",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "fulfilment",
                columns: table => new
                {
                    Key = table.Column<string>(type: "text", nullable: false),
                    Body = table.Column<string>(type: "text", nullable: false),
                    Version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_fulfilment", x => x.Key);
                });

            migrationBuilder.CreateTable(
                name: "order_events",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    Source = table.Column<string>(type: "text", nullable: false),
                    Name = table.Column<string>(type: "text", nullable: false),
                    Order = table.Column<string>(type: "text", nullable: false),
                    ReceivedAt = table.Column<long>(type: "bigint", nullable: false),
                    State = table.Column<int>(type: "integer", nullable: false),
                    Body = table.Column<string>(type: "text", nullable: true),
                    Raw = table.Column<string>(type: "text", nullable: true),
                    Fault = table.Column<string>(type: "text", nullable: true),
                    Version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_order_events", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "order_sources",
                columns: table => new
                {
                    Key = table.Column<string>(type: "text", nullable: false),
                    Body = table.Column<string>(type: "text", nullable: false),
                    Secrets = table.Column<string>(type: "text", nullable: false),
                    Version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_order_sources", x => x.Key);
                });

            migrationBuilder.CreateTable(
                name: "orders",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    Source = table.Column<string>(type: "text", nullable: false),
                    Key = table.Column<string>(type: "text", nullable: false),
                    Standing = table.Column<int>(type: "integer", nullable: false),
                    Handling = table.Column<int>(type: "integer", nullable: false),
                    WaitsFor = table.Column<string>(type: "text", nullable: true),
                    MemberId = table.Column<Guid>(type: "uuid", nullable: true),
                    Email = table.Column<string>(type: "text", nullable: false),
                    Name = table.Column<string>(type: "text", nullable: true),
                    Codes = table.Column<string>(type: "text", nullable: false),
                    TotalUnits = table.Column<long>(type: "bigint", nullable: true),
                    Currency = table.Column<string>(type: "text", nullable: true),
                    RefundedUnits = table.Column<long>(type: "bigint", nullable: false),
                    At = table.Column<long>(type: "bigint", nullable: false),
                    DueAt = table.Column<long>(type: "bigint", nullable: true),
                    Promises = table.Column<string>(type: "text", nullable: false),
                    Told = table.Column<string>(type: "text", nullable: false),
                    TokenDigest = table.Column<string>(type: "text", nullable: true),
                    Search = table.Column<string>(type: "text", nullable: false),
                    Version = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_orders", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_order_events_Source_Name",
                table: "order_events",
                columns: new[] { "Source", "Name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_order_events_Source_Order",
                table: "order_events",
                columns: new[] { "Source", "Order" });

            migrationBuilder.CreateIndex(
                name: "IX_order_events_State_ReceivedAt",
                table: "order_events",
                columns: new[] { "State", "ReceivedAt" },
                filter: "\"State\" <> 1");

            migrationBuilder.CreateIndex(
                name: "IX_orders_At_Id",
                table: "orders",
                columns: new[] { "At", "Id" });

            migrationBuilder.CreateIndex(
                name: "IX_orders_DueAt",
                table: "orders",
                column: "DueAt",
                filter: "\"DueAt\" IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "IX_orders_Email",
                table: "orders",
                column: "Email");

            migrationBuilder.CreateIndex(
                name: "IX_orders_Handling_At",
                table: "orders",
                columns: new[] { "Handling", "At" });

            migrationBuilder.CreateIndex(
                name: "IX_orders_MemberId",
                table: "orders",
                column: "MemberId");

            migrationBuilder.CreateIndex(
                name: "IX_orders_Source_Key",
                table: "orders",
                columns: new[] { "Source", "Key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_orders_TokenDigest",
                table: "orders",
                column: "TokenDigest");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "fulfilment");

            migrationBuilder.DropTable(
                name: "order_events");

            migrationBuilder.DropTable(
                name: "order_sources");

            migrationBuilder.DropTable(
                name: "orders");

            migrationBuilder.DropColumn(
                name: "Grace",
                table: "standings");
        }
    }
}
