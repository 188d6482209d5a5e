using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace WarySentinel.Storage.Migrations.Sqlite
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
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "fulfilment",
                columns: table => new
                {
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_fulfilment", x => x.Key);
                });

            migrationBuilder.CreateTable(
                name: "order_events",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Source = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Order = table.Column<string>(type: "TEXT", nullable: false),
                    ReceivedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    State = table.Column<int>(type: "INTEGER", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: true),
                    Raw = table.Column<string>(type: "TEXT", nullable: true),
                    Fault = table.Column<string>(type: "TEXT", nullable: true),
                    Version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_order_events", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "order_sources",
                columns: table => new
                {
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: false),
                    Secrets = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_order_sources", x => x.Key);
                });

            migrationBuilder.CreateTable(
                name: "orders",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Source = table.Column<string>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Standing = table.Column<int>(type: "INTEGER", nullable: false),
                    Handling = table.Column<int>(type: "INTEGER", nullable: false),
                    WaitsFor = table.Column<string>(type: "TEXT", nullable: true),
                    MemberId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Email = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: true),
                    Codes = table.Column<string>(type: "TEXT", nullable: false),
                    TotalUnits = table.Column<long>(type: "INTEGER", nullable: true),
                    Currency = table.Column<string>(type: "TEXT", nullable: true),
                    RefundedUnits = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    DueAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Promises = table.Column<string>(type: "TEXT", nullable: false),
                    Told = table.Column<string>(type: "TEXT", nullable: false),
                    TokenDigest = table.Column<string>(type: "TEXT", nullable: true),
                    Search = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false)
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
