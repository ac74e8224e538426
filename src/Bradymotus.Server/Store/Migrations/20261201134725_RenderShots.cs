using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Bradymotus.Server.Store.Migrations
{
    /// <inheritdoc />
    public partial class RenderShots : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Boot",
                table: "Renders",
                type: "TEXT",
                maxLength: 64,
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "ShotAsset",
                table: "Renders",
                type: "TEXT",
                maxLength: 64,
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Boot",
                table: "Renders");

            migrationBuilder.DropColumn(
                name: "ShotAsset",
                table: "Renders");
        }
    }
}
