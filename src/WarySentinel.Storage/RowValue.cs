using System.Linq.Expressions;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;

namespace WarySentinel.Storage;

/// <summary>
/// One column of rows that are stored by the thousand: its value goes from the row to its place as what it is, and is not boxed and told apart again.
/// Copied into PostgreSQL that saves about a tenth of the service's time; on SQLite it makes no difference that could be measured.
/// </summary>
internal abstract class RowValue(IProperty property)
{
    /// <summary>The column's property in the model.</summary>
    public IProperty Property { get; } = property;

    /// <summary>That column of a property's rows, as the database has it.</summary>
    public static RowValue Of(IProperty property)
    {
        var mapping = property.GetRelationalTypeMapping();
        var row = Expression.Parameter(typeof(object));
        var held = Expression.MakeMemberAccess(
            Expression.Convert(row, property.DeclaringType.ClrType), (System.Reflection.MemberInfo?)property.PropertyInfo ?? property.FieldInfo!);
        var canBeNull = !held.Type.IsValueType || Nullable.GetUnderlyingType(held.Type) is not null;
        var isNull = canBeNull ? Expression.Lambda<Func<object, bool>>(Expression.Equal(held, Expression.Constant(null, held.Type)), row).Compile() : null;
        var plain = Nullable.GetUnderlyingType(held.Type) is { } under ? Expression.Convert(held, under) : (Expression)held;
        var value = mapping.Converter is { } converter ? Expression.Invoke(converter.ConvertToProviderExpression, plain) : plain;
        return (RowValue)Activator.CreateInstance(typeof(RowValue<>).MakeGenericType(value.Type), property, Expression.Lambda(value, row).Compile(), isNull)!;
    }

    /// <summary>Binds it to its place in a statement of SQLite; gives SQLite's answer.</summary>
    public abstract int Bind(SqliteStatement statement, int place, object row);

    /// <summary>Copies it into PostgreSQL.</summary>
    public abstract Task CopyAsync(NpgsqlBinaryImporter to, object row, CancellationToken stop);
}

/// <inheritdoc/>
/// <typeparam name="T">As the database has it.</typeparam>
/// <param name="property">The property.</param>
/// <param name="value">The value of a row that has one.</param>
/// <param name="isNull">Whether a row has none; null where each has one.</param>
internal sealed class RowValue<T>(IProperty property, Func<object, T> value, Func<object, bool>? isNull) : RowValue(property)
{
    private readonly string type = property.GetRelationalTypeMapping().StoreType;

    /// <inheritdoc/>
    public override int Bind(SqliteStatement statement, int place, object row) =>
        isNull?.Invoke(row) == true ? statement.BindNull(place) : statement.Bind(place, value(row));

    /// <inheritdoc/>
    public override Task CopyAsync(NpgsqlBinaryImporter to, object row, CancellationToken stop) =>
        isNull?.Invoke(row) == true ? to.WriteNullAsync(stop) : to.WriteAsync(value(row), type, stop);
}
