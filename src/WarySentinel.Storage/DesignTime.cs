using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;

namespace WarySentinel.Storage;

/// <summary>Lets <c>dotnet ef migrations add</c> make migrations for SQLite.</summary>
internal sealed class SqliteDesign : IDesignTimeDbContextFactory<SqliteContext>
{
    public SqliteContext CreateDbContext(string[] args) =>
        new(new DbContextOptionsBuilder<SqliteContext>().UseSqlite("Data Source=design.db").Options);
}

/// <summary>Lets <c>dotnet ef migrations add</c> make migrations for PostgreSQL.</summary>
internal sealed class PostgresDesign : IDesignTimeDbContextFactory<PostgresContext>
{
    public PostgresContext CreateDbContext(string[] args) =>
        new(new DbContextOptionsBuilder<PostgresContext>().UseNpgsql("Host=localhost").Options);
}
