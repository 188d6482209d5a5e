using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Metadata;
using Shouldly;
using Xunit;

namespace WarySentinel.Storage.Tests;

/// <summary>The model is compiled ahead (docs/architecture.md says how); what runs must be what the code says.</summary>
public sealed class CompiledModelTests
{
    [Theory]
    [InlineData("sqlite")]
    [InlineData("postgres")]
    public void The_model_that_is_compiled_ahead_is_the_one_that_the_code_makes(string provider)
    {
        using StoreContext db = provider == "sqlite"
            ? new SqliteContext(new DbContextOptionsBuilder<SqliteContext>().UseSqlite("Data Source=none.db").Options)
            : new PostgresContext(new DbContextOptionsBuilder<PostgresContext>().UseNpgsql("Host=nowhere").Options);
        db.Model.ShouldBeAssignableTo<RuntimeModel>();
        var made = db.GetService<IDesignTimeModel>().Model;
        Told(db.Model).ShouldBe(Told(made));
        Told(made).Count.ShouldBeGreaterThan(100);
    }

    private static List<string> Told(IModel model) => [.. model.GetEntityTypes().SelectMany(Told).Order(StringComparer.Ordinal)];

    private static IEnumerable<string> Told(IEntityType type)
    {
        var table = StoreObjectIdentifier.Create(type, StoreObjectType.Table)!.Value;
        foreach (var p in type.GetProperties())
        {
            var mapping = p.GetRelationalTypeMapping();
            yield return $"{table.Name}.{p.GetColumnName(table)} {p.Name} {p.ClrType} {mapping.StoreType} {mapping.Converter?.GetType()} null {p.IsNullable} "
                + $"token {p.IsConcurrencyToken} made {p.ValueGenerated} most {p.GetMaxLength()}";
        }

        foreach (var key in type.GetKeys())
        {
            yield return $"{table.Name} key {string.Join(',', key.Properties.Select(p => p.Name))} {key.IsPrimaryKey()}";
        }

        foreach (var key in type.GetForeignKeys())
        {
            yield return $"{table.Name} to {key.PrincipalEntityType.Name} {string.Join(',', key.Properties.Select(p => p.Name))} {key.DeleteBehavior} "
                + $"{key.DependentToPrincipal?.Name} {key.PrincipalToDependent?.Name}";
        }

        foreach (var index in type.GetIndexes())
        {
            yield return $"{table.Name} index {index.GetDatabaseName()} {string.Join(',', index.Properties.Select(p => p.Name))} {index.IsUnique}";
        }
    }
}
