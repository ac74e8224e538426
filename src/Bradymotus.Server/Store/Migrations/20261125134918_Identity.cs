using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Bradymotus.Server.Store.Migrations
{
    /// <inheritdoc />
    public partial class Identity : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<DateTime>(
                name: "Deleted",
                table: "Renders",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Begun",
                table: "RenderFrames",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<string>(
                name: "EntryId",
                table: "Journal",
                type: "TEXT",
                maxLength: 64,
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Needs",
                table: "Journal",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "Unreadable",
                table: "Journal",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.Sql("UPDATE Journal SET Needs = json_extract(Json, '$.revision') WHERE json_valid(Json) AND json_extract(Json, '$.kind') = 'restore'");

            migrationBuilder.CreateIndex(
                name: "IX_Journal_ShotId_EntryId",
                table: "Journal",
                columns: new[] { "ShotId", "EntryId" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Journal_ShotId_Needs",
                table: "Journal",
                columns: new[] { "ShotId", "Needs" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Journal_ShotId_EntryId",
                table: "Journal");

            migrationBuilder.DropIndex(
                name: "IX_Journal_ShotId_Needs",
                table: "Journal");

            migrationBuilder.DropColumn(
                name: "Deleted",
                table: "Renders");

            migrationBuilder.DropColumn(
                name: "Begun",
                table: "RenderFrames");

            migrationBuilder.DropColumn(
                name: "EntryId",
                table: "Journal");

            migrationBuilder.DropColumn(
                name: "Needs",
                table: "Journal");

            migrationBuilder.DropColumn(
                name: "Unreadable",
                table: "Journal");
        }
    }
}
