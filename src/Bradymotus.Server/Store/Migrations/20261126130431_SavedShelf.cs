using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Bradymotus.Server.Store.Migrations
{
    /// <inheritdoc />
    public partial class SavedShelf : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "Saved",
                columns: table => new
                {
                    Id = table.Column<string>(type: "TEXT", maxLength: 32, nullable: false),
                    Name = table.Column<string>(type: "TEXT", maxLength: 200, nullable: false),
                    Kind = table.Column<string>(type: "TEXT", maxLength: 10, nullable: false),
                    Json = table.Column<string>(type: "TEXT", nullable: false),
                    Objects = table.Column<string>(type: "TEXT", maxLength: 2000, nullable: false),
                    ObjectCount = table.Column<int>(type: "INTEGER", nullable: false),
                    Channels = table.Column<int>(type: "INTEGER", nullable: false),
                    Created = table.Column<DateTime>(type: "TEXT", nullable: false),
                    Deleted = table.Column<DateTime>(type: "TEXT", nullable: true),
                    Pictures = table.Column<int>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Saved", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "SavedPictures",
                columns: table => new
                {
                    SavedId = table.Column<string>(type: "TEXT", maxLength: 32, nullable: false),
                    Bytes = table.Column<byte[]>(type: "BLOB", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_SavedPictures", x => x.SavedId);
                });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Saved");

            migrationBuilder.DropTable(
                name: "SavedPictures");
        }
    }
}
